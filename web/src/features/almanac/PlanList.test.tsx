import { fireEvent, render, screen, within } from "@testing-library/react";
import { useState } from "react";
import { expect, test } from "vitest";
import type { Almanac } from "../plan/almanac";
import { PlanList } from "./PlanList";
import { readSort } from "./sort";

const entry = (
  id: number,
  date: string,
  minute: number,
  title: string,
  author: string,
  category?: string,
) => ({
  id,
  date,
  minute,
  title,
  author,
  status: "scheduled",
  pinned: false,
  version: 1,
  ...(category ? { category } : {}),
});

const plan = {
  now: { date: "2026-12-01" },
  days: [
    {
      date: "2026-12-03",
      entries: [
        entry(1, "2026-12-03", 600, "Moon", "Pell", "Sky Guide"),
        entry(2, "2026-12-03", 700, "Álgol", "Ines"),
      ],
      ghosts: [],
      short: [],
      free: [],
      openings: [],
    },
    {
      date: "2026-12-04",
      entries: [entry(3, "2026-12-04", 500, "Comet", "Pell", "Diary")],
      ghosts: [],
      short: [],
      free: [],
      openings: [],
    },
  ],
  shelf: [],
  drafts: [],
} as unknown as Almanac;

function List({ onPick }: { onPick: (ids: number[], on: boolean) => void }) {
  const [sort, setSort] = useState(readSort(""));
  const [picked, setPicked] = useState<ReadonlySet<number>>(new Set());
  return (
    <PlanList
      plan={plan}
      chosen={undefined}
      picked={picked}
      onPick={(ids, on) => {
        onPick(ids, on);
        setPicked(new Set([...picked, ...ids].filter((id) => on || !ids.includes(id))));
      }}
      lacks={new Map()}
      marks={[]}
      sort={sort}
      onSort={setSort}
      onPost={() => {}}
      onDay={() => {}}
      onMark={() => {}}
    />
  );
}

const titles = () =>
  screen
    .getAllByRole("row")
    .flatMap((row) => within(row).queryAllByTitle(/Moon|Álgol|Comet/))
    .map((e) => e.textContent);

const by = (name: string) => fireEvent.click(screen.getByRole("button", { name }));

test("the list is sorted by a column, either way; what has no value stands last, what is alike by its time", () => {
  render(<List onPick={() => {}} />);
  expect(titles()).toEqual(["Moon", "Álgol", "Comet"]);
  by("Time");
  expect(titles()).toEqual(["Comet", "Álgol", "Moon"]);
  by("Post");
  expect(titles()).toEqual(["Álgol", "Comet", "Moon"]);
  expect(screen.getByRole("columnheader", { name: "Post" }).ariaSort).toBe("ascending");
  by("Post");
  expect(titles()).toEqual(["Moon", "Comet", "Álgol"]);
  by("Author");
  expect(titles()).toEqual(["Álgol", "Moon", "Comet"]);
  by("Author");
  expect(titles()).toEqual(["Moon", "Comet", "Álgol"]);
  by("Category");
  expect(titles()).toEqual(["Comet", "Moon", "Álgol"]);
  by("Category");
  expect(titles()).toEqual(["Moon", "Comet", "Álgol"]);
});

test("posts are chosen one by one and all at once", () => {
  const picks: [number[], boolean][] = [];
  render(<List onPick={(ids, on) => picks.push([ids, on])} />);
  fireEvent.click(screen.getByLabelText("Choose “Moon”"));
  fireEvent.click(screen.getByLabelText("Select all of these"));
  fireEvent.click(screen.getByLabelText("Deselect all of these"));
  expect(picks.map(([ids, on]) => [ids.toSorted(), on])).toEqual([
    [[1], true],
    [[2, 3], true],
    [[1, 2, 3], false],
  ]);
});
