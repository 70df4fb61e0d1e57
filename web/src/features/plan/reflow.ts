import { keepPreviousData, queryOptions, useQuery } from "@tanstack/react-query";
import { useMutation } from "../../api/mutation";
import { useSettled } from "../../ui/useSettled";
import { answer, api, Refusal, type Schemas } from "../../api/client";
import { useRefresh } from "../../api/live";

export type Wish = Schemas["Wish"];
export type Pattern = Schemas["Pattern"];
export type Reflow = Schemas["Reflow"];
export type Step = Schemas["Step"];
export type ByHand = Schemas["ByHand"];
export type WishKind = Wish["do"];

/** What each kind of wish is called, and what its button says. */
export const kinds: Record<WishKind, { title: string; menu: string; done: string }> = {
  place: { title: "Schedule drafts", menu: "Schedule drafts…", done: "scheduled" },
  room: { title: "Make room", menu: "Make room for one post…", done: "moved" },
  shift: { title: "Shift a date range", menu: "Shift a date range…", done: "moved" },
  rest: { title: "Move posts off rest days", menu: "Move posts off rest days…", done: "moved off rest days" },
  unplace: { title: "Unschedule a date range", menu: "Unschedule a date range…", done: "back on the shelf" },
};

/** A pattern as it is when it is new. Each has a seed of its own. */
export async function newPattern(site: string): Promise<Pattern> {
  const { pattern } = await answer(
    api.GET("/api/v1/sites/{site}/rhythm/opening", { params: { path: { site } } }),
  );
  return pattern;
}

/** The question what a wish comes to, as the plan is now. */
export function proposalOf(site: string, wish: Wish | undefined) {
  return queryOptions({
    queryKey: ["plan", site, "reflow", wish],
    queryFn: () =>
      answer(api.POST("/api/v1/sites/{site}/reflow/proposal", { params: { path: { site } }, body: wish! })),
    staleTime: 0,
  });
}

/** What a wish comes to, as the plan is now. */
export function useProposal(site: string, wish: Wish | undefined) {
  return useQuery({
    ...proposalOf(site, wish),
    enabled: wish !== undefined,
    placeholderData: keepPreviousData,
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
  const refresh = useRefresh(site);
  return useMutation({
    mutationFn: ({ wish, shown, adjusted }: { wish: Wish; shown: Reflow; adjusted: ByHand[] }) =>
      answer(
        api.POST("/api/v1/sites/{site}/reflow", {
          params: { path: { site } },
          body: {
            wish,
            token: shown.token,
            ...(adjusted.length > 0 ? { adjusted } : {}),
          },
        }),
      ),
    onSettled: () => refresh("plan"),
  });
}

/** The proposal that a refusal brought along. */
export function changedBy(error: unknown): Reflow | undefined {
  return error instanceof Refusal ? error.problem.reflow : undefined;
}
