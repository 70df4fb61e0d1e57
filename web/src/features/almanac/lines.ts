import {
  createColumnHelper,
  createSortedRowModel,
  rowSelectionFeature,
  rowSortingFeature,
  tableFeatures,
  type Row,
  type SortFn,
} from "@tanstack/react-table";
import { kindWords } from "../forecast/kinds";
import type { Almanac } from "../plan/almanac";
import { looks, markKey, marksOf, type Marked } from "../plan/marked";
import type { DeedMark } from "../plan/marks";
import { markId } from "../tape/ThinMarks";

/** A line of the plan as a list: a post at its time, or a deed of a rule. */
export type Line = {
  date: string;
  minute: number;
  title: string;
  standing: string;
  author: string;
  category: string;
  post?: Marked;
  deed?: DeedMark;
};

/** What the list can do. */
export const features = tableFeatures({
  rowSelectionFeature,
  rowSortingFeature,
  sortedRowModel: createSortedRowModel(),
});

export type ListRow = Row<typeof features, Line>;

const helper = createColumnHelper<typeof features, Line>();

const spelt: SortFn<typeof features, Line> = (a, b, id) =>
  a.getValue<string>(id).localeCompare(b.getValue<string>(id), "en");

/** Lines without a value stand last, whichever way; those alike by their times, as they come. */
const words = { sortFn: spelt, sortUndefined: "last" } as const;

/** The columns of the list, by the names of `sort.ts`. */
export const columns = helper.columns([
  helper.accessor((l) => l.minute, {
    id: "time",
    header: "Time",
    sortFn: (a, b) => byTime(a.original, b.original),
  }),
  helper.accessor((l) => l.title || undefined, { id: "title", header: "Post", ...words }),
  helper.accessor("standing", { id: "standing", header: "Status", ...words }),
  helper.accessor((l) => l.author || undefined, { id: "author", header: "Author", ...words }),
  helper.accessor((l) => l.category || undefined, { id: "category", header: "Category", ...words }),
]);

/** The lines of the shown days, by their times. */
export function linesOf(
  plan: Almanac,
  marks: readonly DeedMark[],
  lacks: ReadonlyMap<number, string>,
): Line[] {
  const about = new Map<number, { author: string; category?: string }>();
  for (const s of plan.shelf) about.set(s.id, s);
  for (const e of plan.days.flatMap((d) => d.entries)) about.set(e.id, e);
  const posts = plan.days.flatMap((day) =>
    marksOf(day, lacks).map((post): Line => {
      const { author = "", category = "" } = about.get(post.id) ?? {};
      const { minute, title } = post;
      return { date: day.date, minute, title, standing: looks[post.kind].word, author, category, post };
    }),
  );
  const deeds = marks.map((deed): Line => {
    const title = deed.title || deed.rule || "";
    const standing = kindWords[deed.kind].word;
    return { date: deed.date, minute: deed.minute, title, standing, author: "", category: "", deed };
  });
  return [...posts, ...deeds].sort(byTime);
}

const byTime = (a: Line, b: Line) =>
  a.date < b.date ? -1 : a.date > b.date ? 1 : a.minute - b.minute || Number(!!a.deed) - Number(!!b.deed);

/** What has a time that can be changed, or waits for one. */
export const canMove = (l: Line) => l.post !== undefined && l.post.kind !== "out";

export const keyOf = (l: Line) => (l.deed ? markId(l.deed) : markKey(l.post!));
