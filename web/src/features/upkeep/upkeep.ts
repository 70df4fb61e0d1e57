import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useMutation } from "../../api/mutation";
import { answer, api, type Schemas } from "../../api/client";
import { useRefresh } from "../../api/live";
import { useSettled } from "../../ui/useSettled";

export type AgeMap = Schemas["AgeMap"];
export type Aged = Schemas["AgedPost"];
export type RuleLine = Schemas["RuleLine"];
export type Notice = Schemas["Notice"];
export type PostUpkeep = Schemas["PostUpkeep"];
export type Once = Schemas["OnceBody"];

export function useAgeMap(site: string) {
  return useQuery({
    queryKey: ["plan", site, "age-map"],
    queryFn: () => answer(api.GET("/api/v1/sites/{site}/upkeep/map", { params: { path: { site } } })),
    placeholderData: keepPreviousData,
  });
}

export function useNotices(site: string) {
  return useQuery({
    queryKey: ["plan", site, "notices"],
    queryFn: () => answer(api.GET("/api/v1/sites/{site}/upkeep/notices", { params: { path: { site } } })),
  });
}

export function usePostUpkeep(site: string, id: number) {
  return useQuery({
    queryKey: ["plan", site, "post-upkeep", id],
    queryFn: () =>
      answer(api.GET("/api/v1/sites/{site}/posts/{id}/upkeep", { params: { path: { site, id } } })),
    enabled: id > 0,
  });
}

/** What an action would do once; asked for once typing rests. */
export function useOncePreview(site: string, once: Once) {
  const settled = useSettled(once, 250);
  const query = useQuery({
    queryKey: ["plan", site, "once", settled],
    queryFn: () =>
      answer(
        api.POST("/api/v1/sites/{site}/upkeep/once/preview", { params: { path: { site } }, body: settled }),
      ),
    placeholderData: keepPreviousData,
  });
  return { ...query, current: settled === once && !query.isPlaceholderData };
}

/** What is done for the upkeep of posts by hand. */
export function useUpkeepDeeds(site: string) {
  const refresh = useRefresh(site);
  const onSettled = () => refresh("plan", "rules");
  const path = (id: number) => ({ params: { path: { site, id } } });
  return {
    once: useMutation({
      mutationFn: (body: Once & { token: string; confirm: number }) =>
        answer(api.POST("/api/v1/sites/{site}/upkeep/once", { params: { path: { site } }, body })),
      onSettled,
    }),
    keep: useMutation({
      mutationFn: ({ id, ...body }: { id: number; version: number; until: string }) =>
        answer(api.PUT("/api/v1/sites/{site}/posts/{id}/keep", { ...path(id), body })),
      onSettled,
    }),
    answer: useMutation({
      mutationFn: ({
        id,
        ...body
      }: {
        id: number;
        version: number;
        answer: PostUpkeep["answer"];
        leadsTo: number;
      }) => answer(api.PUT("/api/v1/sites/{site}/posts/{id}/answer", { ...path(id), body })),
      onSettled,
    }),
    confirm: useMutation({
      mutationFn: ({ rule, post }: { rule: number; post: number }) =>
        answer(
          api.PUT("/api/v1/sites/{site}/rules/{id}/read/{post}", {
            params: { path: { site, id: rule, post } },
          }),
        ),
      onSettled,
    }),
  };
}

/** What the map tells apart at a glance. */
export const groups = {
  past: {
    name: "Past their time",
    hint: "An expiry rule matches them now.",
    none: "Nothing is past its time.",
  },
  due: {
    name: "Due for another round",
    hint: "A republish rule may bring them out now.",
    none: "Nothing is due again.",
  },
  alone: {
    name: "Looked after by no rule",
    hint: "No rule that is on matches them now, or would some day.",
    none: "Every post has a rule that looks after it.",
  },
  fought: {
    name: "Rules disagree",
    hint: "One rule takes them away, another brings them out again.",
    none: "No rules disagree.",
  },
} as const;

export type Group = keyof typeof groups;

/** Which groups a post is in: by the rules that are on, and by those that only would. */
export function groupsOf(post: Aged, lines: Map<number, RuleLine>): Group[] {
  const rules = (post.rules ?? []).flatMap((id) => lines.get(id) ?? []).filter((l) => l.state !== "off");
  const past = rules.some((l) => l.kind === "expire");
  const due = rules.some((l) => l.kind === "republish");
  const found: Group[] = [];
  if (past) found.push("past");
  if (due) found.push("due");
  if (past && due && rules.some((l) => l.kind === "expire" && takesAway.has(l.action ?? "")))
    found.push("fought");
  if (!post.looked && !post.never) found.push("alone");
  return found;
}

const takesAway = new Set(["archive", "draft", "bin"]);
