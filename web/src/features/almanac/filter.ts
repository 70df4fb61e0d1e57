import { useMemo } from "react";
import type { Option } from "../../ui/Choice";
import type { PlanShown } from "../lenses/lenses";
import type { Almanac, Entry } from "../plan/almanac";
import { layerOf, type DeedMark } from "../plan/marks";

/** Which posts of the plan are shown; empty is any. */
export type Filter = {
  authors: number[];
  categories: number[];
  status: string;
  kind: string;
  channel: string;
};

/** Where posts of the plan stand, and what each is called. */
export const statuses: Option<NonNullable<PlanShown["status"]>>[] = [
  { value: "scheduled", name: "Scheduled" },
  { value: "pinned", name: "Pinned" },
  { value: "held", name: "Overdue, held" },
  { value: "published", name: "Out" },
  { value: "proposed", name: "Proposed" },
];

export const kinds: Option<NonNullable<PlanShown["kind"]>>[] = [
  { value: "post", name: "Posts" },
  { value: "page", name: "Pages" },
];

/** The authors and categories to choose from: the blog's, and those of the shown days, the shelf and the drafts. */
export function namesIn(
  plan: Almanac,
  people: { id: number; name: string }[],
  topics: { id: number; name: string }[],
): { authors: Option<number>[]; categories: Option<number>[] } {
  const posts = [...plan.days.flatMap((d) => d.entries), ...plan.shelf, ...plan.drafts];
  const sorted = (names: [number, string | undefined][]) =>
    [...new Map(names.filter(([id, name]) => id !== 0 && name))]
      .map(([value, name]) => ({ value, name: name! }))
      .sort((a, b) => a.name.localeCompare(b.name));
  return {
    authors: sorted([
      ...posts.map((p): [number, string] => [p.authorId, p.author]),
      ...people.map((p): [number, string] => [p.id, p.name]),
    ]),
    categories: sorted([
      ...posts.map((p): [number, string | undefined] => [p.categoryId, p.category]),
      ...topics.map((c): [number, string] => [c.id, c.name]),
    ]),
  };
}

/** The plan with only the posts that the filter lets through; openings and free slots stay. */
export function filtered<P extends Almanac>(
  plan: P,
  { authors, categories, status, kind, channel }: Filter,
): P {
  // One channel's days have its outings alone.
  if (channel) return { ...plan, days: plan.days.map((d) => ({ ...d, entries: [], ghosts: [] })) };
  if (authors.length === 0 && categories.length === 0 && !status && !kind) return plan;
  const fits = (p: { authorId: number; categoryId: number }) =>
    (authors.length === 0 || authors.includes(p.authorId)) &&
    (categories.length === 0 || categories.includes(p.categoryId));
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

/** The marks that the filter lets through. */
export function filteredMarks(marks: DeedMark[], { authors, categories, channel }: Filter): DeedMark[] {
  return marks.filter(
    (m) =>
      (authors.length === 0 || authors.includes(m.authorId ?? 0)) &&
      (categories.length === 0 || categories.includes(m.categoryId ?? 0)) &&
      (!channel ||
        // Messages that went out together are one mark, which names all their channels.
        (layerOf(m.kind) === "outings" && `, ${m.channel ?? ""}, `.includes(`, ${channel}, `))),
  );
}

function statusOf(e: Entry): string {
  if (e.status === "published") return "published";
  if (e.held) return "held";
  return e.pinned ? "pinned" : "scheduled";
}

/** The filtered plan, the same as long as plan and filter are: rows are drawn anew only where something changed. */
export function useFiltered<P extends Almanac>(plan: P | undefined, filter: Filter): P | undefined {
  const said = JSON.stringify(filter);
  return useMemo(() => plan && filtered(plan, JSON.parse(said) as Filter), [plan, said]);
}
