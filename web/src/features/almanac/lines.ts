import { kindWords } from "../forecast/kinds";
import type { Almanac } from "../plan/almanac";
import { looks, marksOf, type Marked } from "../plan/marked";
import type { DeedMark } from "../plan/marks";

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

/** What the list can be sorted by. */
export const columns = [
  { by: "time", name: "Time" },
  { by: "title", name: "Post" },
  { by: "standing", name: "Status" },
  { by: "author", name: "Author" },
  { by: "category", name: "Category" },
] as const;

export type Column = (typeof columns)[number]["by"];

export type Sort = { by: Column; down: boolean };

/** Reads a sort as the address has it, such as "title" or "-title"; by time where it is none. */
export function readSort(text: string): Sort {
  const by = columns.find((c) => c.by === text.replace(/^-/, ""))?.by;
  return { by: by ?? "time", down: by !== undefined && text.startsWith("-") };
}

export const writeSort = ({ by, down }: Sort) => `${down ? "-" : ""}${by}`;

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

/** Puts lines in another order; those without a value stand last, and those alike by their times. */
export function sorted(lines: Line[], { by, down }: Sort): Line[] {
  const turn = down ? -1 : 1;
  if (by === "time") return lines.toSorted((a, b) => turn * byTime(a, b));
  return lines.toSorted((a, b) => {
    const [one, other] = [a[by], b[by]];
    if (!one || !other) return Number(!one) - Number(!other) || byTime(a, b);
    return turn * one.localeCompare(other, "en") || byTime(a, b);
  });
}
