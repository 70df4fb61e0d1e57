import {
  columnSizingFeature,
  columnVisibilityFeature,
  createColumnHelper,
  rowSelectionFeature,
  rowSortingFeature,
  tableFeatures,
  type Row,
} from "@tanstack/react-table";
import { useState } from "react";
import { shownPlace } from "../../ui/siteClock";
import { stageWord, type Listed, type Sort } from "./posts";
import { Title } from "./Title";

/** What the table of posts can do. The rows come sorted from the server. */
export const features = tableFeatures({
  columnSizingFeature,
  columnVisibilityFeature,
  rowSelectionFeature,
  rowSortingFeature,
});

export type PostsRow = Row<typeof features, Listed>;

const helper = createColumnHelper<typeof features, Listed>();

/** The columns of the list of posts, with their sizes in rem. */
export const columns = helper.columns([
  helper.accessor("title", {
    id: "title",
    header: "Title",
    size: 15,
    enableHiding: false,
    cell: ({ row }) => <Title post={row.original} />,
  }),
  helper.accessor("stage", {
    id: "stage",
    header: "Status",
    size: 6.5,
    enableSorting: false,
    cell: ({ getValue }) => (
      <span className={getValue() === "held" ? "text-madder" : "text-ink"}>{stageWord(getValue())}</span>
    ),
  }),
  helper.accessor((p) => (p.when ? shownPlace(p.when) : ""), { id: "when", header: "Comes out", size: 10.5 }),
  helper.accessor("author", { id: "author", header: "Author", size: 9, enableSorting: false }),
  helper.accessor("category", { id: "category", header: "Category", size: 8, enableSorting: false }),
  helper.accessor((p) => p.tags.join(", "), {
    id: "tags",
    header: "Tags",
    size: 10,
    enableSorting: false,
    cell: ({ getValue }) => <span title={getValue()}>{getValue()}</span>,
  }),
  helper.accessor((p) => p.words.toLocaleString("en-GB"), { id: "words", header: "Words", size: 4.5 }),
  helper.accessor((p) => (p.comments ? p.comments.toLocaleString("en-GB") : ""), {
    id: "comments",
    header: "Comments",
    size: 5.5,
    enableSorting: false,
  }),
  helper.accessor((p) => shownPlace(p.updated), { id: "changed", header: "Changed", size: 10.5 }),
]);

/** The columns beside the title, in their order; the first of those that are chosen stay where there is little room. */
export const beside = columns
  .filter((c) => c.enableHiding !== false)
  .map((c) => ({ id: c.id!, name: String(c.header), size: c.size! }));

/** How the server calls what a column is sorted by, where it is not the column's own name. */
const sorts: Record<string, Sort> = { when: "date" };

export const sortOf = (column: string) => sorts[column] ?? (column as Sort);

export const columnOf = (sort: Sort) => (sort === "date" ? "when" : sort);

const key = "dapper.post-columns";
const usual = ["stage", "when", "author", "category", "changed"];

/** Which columns beside the title are chosen; the choice is kept in this browser. */
export function useColumns() {
  const [shown, setShown] = useState<string[]>(() => {
    try {
      const kept = JSON.parse(localStorage.getItem(key) ?? "null") as string[] | null;
      return kept ? kept.filter((id) => beside.some((c) => c.id === id)) : usual;
    } catch {
      return usual;
    }
  });
  function toggle(column: string, on: boolean) {
    const next = beside.map((c) => c.id).filter((id) => (id === column ? on : shown.includes(id)));
    setShown(next);
    localStorage.setItem(key, JSON.stringify(next));
  }
  return { shown, toggle };
}

/** Which of the chosen columns leave the title room enough in a table of a width in pixels, whatever size letters have. */
export function fitting(shown: string[], width: number, letter: number): Record<string, boolean> {
  let room = width / letter - columns[0]!.size! - ends.reduce((sum, end) => sum + end + gap, 0);
  return Object.fromEntries(
    beside.map(({ id, size }) => {
      if (!shown.includes(id)) return [id, false];
      room -= size + gap;
      return [id, room >= 0];
    }),
  );
}

/** The sizes of the tick before a row and of the button after it, and the gap between columns, in rem. */
export const ends = [1.5, 1.75] as const;
const gap = 0.75;
