import { useState } from "react";
import type { Sort } from "./posts";

export type Column = "stage" | "when" | "author" | "category" | "tags" | "words" | "changed";

/** The columns beside the title: their heads, widths, and by what they sort. */
export const columns: { column: Column; name: string; width: string; sort?: Sort }[] = [
  { column: "stage", name: "Status", width: "6.5rem" },
  { column: "when", name: "Comes out", width: "10.5rem", sort: "date" },
  { column: "author", name: "Author", width: "9rem" },
  { column: "category", name: "Category", width: "8rem" },
  { column: "tags", name: "Tags", width: "10rem" },
  { column: "words", name: "Words", width: "4.5rem", sort: "words" },
  { column: "changed", name: "Changed", width: "10.5rem", sort: "changed" },
];

const key = "dapper.post-columns";
const usual: Column[] = ["stage", "when", "author", "category", "changed"];

/** Which columns are shown; the choice is kept in this browser. */
export function useColumns() {
  const [shown, setShown] = useState<Column[]>(() => {
    try {
      const kept = JSON.parse(localStorage.getItem(key) ?? "null") as Column[] | null;
      return kept ? kept.filter((c) => columns.some((one) => one.column === c)) : usual;
    } catch {
      return usual;
    }
  });
  function toggle(column: Column, on: boolean) {
    const next = columns.map((c) => c.column).filter((c) => (c === column ? on : shown.includes(c)));
    setShown(next);
    localStorage.setItem(key, JSON.stringify(next));
  }
  return { shown, toggle };
}
