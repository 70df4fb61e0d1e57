import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useSettled } from "../../ui/useSettled";
import { answer, api, Refusal, type Schemas } from "../../api/client";

export type Wish = Schemas["Wish"];
export type Pattern = Schemas["Pattern"];
export type Reflow = Schemas["Reflow"];
export type Step = Schemas["Step"];
export type ByHand = Schemas["ByHand"];
export type WishKind = Wish["do"];

/** What each kind of wish is called, and what its button says. */
export const kinds: Record<WishKind, { title: string; menu: string; done: string }> = {
  place: { title: "Place drafts", menu: "Place drafts…", done: "scheduled" },
  room: { title: "Make room", menu: "Make room for one post…", done: "moved" },
  shift: { title: "Shift a stretch of the plan", menu: "Shift a stretch by days…", done: "moved" },
  rest: { title: "Off the rest days", menu: "Posts off the rest days…", done: "moved off rest days" },
  unplace: { title: "Back to the shelf", menu: "A stretch back to the shelf…", done: "back on the shelf" },
};

/** What a wish comes to, as the plan is now. */
export function useProposal(site: string, wish: Wish | undefined) {
  return useQuery({
    queryKey: ["plan", site, "reflow", wish],
    queryFn: () =>
      answer(api.POST("/api/v1/sites/{site}/reflow/proposal", { params: { path: { site } }, body: wish! })),
    enabled: wish !== undefined,
    placeholderData: keepPreviousData,
    staleTime: 0,
  });
}

/** What the lines that got a time by hand are nearer to than the gap: sentences by post. */
export function useNear(site: string, wish: Wish, adjusted: ByHand[]) {
  const asked = { ...wish, adjusted: useSettled(adjusted, 300) };
  const near = useQuery({
    queryKey: ["plan", site, "reflow", asked],
    queryFn: () =>
      answer(api.POST("/api/v1/sites/{site}/reflow/proposal", { params: { path: { site } }, body: asked })),
    enabled: asked.adjusted.length > 0,
    placeholderData: keepPreviousData,
  });
  const lines = (adjusted.length > 0 && near.data?.near) || [];
  return Map.groupBy(lines, (n) => n.id);
}

export type Near = ReturnType<typeof useNear>;

/** Does exactly what was shown. A refusal for a changed plan holds the new proposal. */
export function useApply(site: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: ({ wish, shown, adjusted }: { wish: Wish; shown: Reflow; adjusted: ByHand[] }) =>
      answer(
        api.POST("/api/v1/sites/{site}/reflow", {
          params: { path: { site } },
          body: {
            wish,
            steps: shown.steps.map((s) => ({ id: s.id, ...(s.to ? { at: s.to.at } : {}) })),
            ...(adjusted.length > 0 ? { adjusted } : {}),
          },
        }),
      ),
    onSettled: () => void queries.invalidateQueries({ queryKey: ["plan", site] }),
  });
}

/** The proposal that a refusal brought along. */
export function changedBy(error: unknown): Reflow | undefined {
  return error instanceof Refusal ? error.problem.reflow : undefined;
}
