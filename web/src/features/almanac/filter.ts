import { useMemo } from "react";
import type { Almanac, Entry } from "./almanac";

/** Which posts of the plan are shown; empty is any. */
export type Filter = { author: string; category: string; status: string; kind: string };

export const noFilter: Filter = { author: "", category: "", status: "", kind: "" };

/** Where posts of the plan stand, and what each is called. */
export const statuses = [
  { value: "scheduled", name: "Scheduled" },
  { value: "pinned", name: "Pinned" },
  { value: "held", name: "Overdue, held" },
  { value: "published", name: "Out" },
  { value: "proposed", name: "Proposed" },
];

export const kinds = [
  { value: "post", name: "Posts" },
  { value: "page", name: "Pages" },
];

/** The authors and categories that there are in the shown days, on the shelf and among the drafts. */
export function namesIn(plan: Almanac): { authors: string[]; categories: string[] } {
  const posts = [...plan.days.flatMap((d) => d.entries), ...plan.shelf, ...plan.drafts];
  const sorted = (names: (string | undefined)[]) =>
    [...new Set(names.filter((n): n is string => Boolean(n)))].sort((a, b) => a.localeCompare(b));
  return { authors: sorted(posts.map((p) => p.author)), categories: sorted(posts.map((p) => p.category)) };
}

/** The plan with only the posts that the filter lets through; openings and free slots stay. */
function filtered<P extends Almanac>(plan: P, { author, category, status, kind }: Filter): P {
  if (!author && !category && !status && !kind) return plan;
  const fits = (p: { author: string; category?: string }) =>
    (!author || p.author === author) && (!category || p.category === category);
  const onShelf = new Set(plan.shelf.filter(fits).map((s) => s.id));
  return {
    ...plan,
    days: plan.days.map((d) => ({
      ...d,
      entries: d.entries.filter(
        (e) => fits(e) && (!status || status === statusOf(e)) && (!kind || kind === e.kind),
      ),
      // Only posts wait on the shelf; pages do not queue.
      ghosts: d.ghosts.filter(
        (g) => onShelf.has(g.id) && (!status || status === "proposed") && kind !== "page",
      ),
    })),
  };
}

function statusOf(e: Entry): string {
  if (e.status === "published") return "published";
  if (e.held) return "held";
  return e.pinned ? "pinned" : "scheduled";
}

/** The filtered plan, the same as long as plan and filter are: rows are drawn anew only where something changed. */
export function useFiltered<P extends Almanac>(plan: P | undefined, filter: Filter): P | undefined {
  const { author, category, status, kind } = filter;
  return useMemo(
    () => plan && filtered(plan, { author, category, status, kind }),
    [plan, author, category, status, kind],
  );
}
