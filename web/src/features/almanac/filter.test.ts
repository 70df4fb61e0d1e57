import { expect, test } from "vitest";
import type { Almanac } from "../plan/almanac";
import type { DeedMark } from "../plan/marks";
import { filtered, filteredMarks, namesIn, type Filter } from "./filter";
import { readShown, throughLens } from "./shown";

const post = (id: number, authorId: number, categoryId: number, more = {}) => ({
  id,
  authorId,
  author: `A${authorId}`,
  categoryId,
  ...(categoryId ? { category: `C${categoryId}` } : {}),
  status: "scheduled",
  kind: "post",
  ...more,
});

const plan = {
  days: [
    {
      entries: [
        post(1, 1, 1),
        post(2, 2, 0),
        post(3, 3, 2, { pinned: true }),
        post(4, 1, 2, { kind: "page" }),
      ],
      ghosts: [{ id: 5 }, { id: 6 }],
    },
  ],
  shelf: [post(5, 1, 1), post(6, 2, 2)],
  drafts: [post(7, 9, 0)],
} as unknown as Almanac;

const none: Filter = { authors: [], categories: [], status: "", kind: "", channel: "" };

function shown(filter: Partial<Filter>) {
  const { days } = filtered(plan, { ...none, ...filter });
  return [...days[0]!.entries, ...days[0]!.ghosts].map((e) => e.id);
}

test.each([
  [{}, [1, 2, 3, 4, 5, 6]],
  [{ authors: [1] }, [1, 4, 5]],
  [{ authors: [1, 2] }, [1, 2, 4, 5, 6]],
  [{ categories: [2] }, [3, 4, 6]],
  [{ authors: [1], categories: [1, 2] }, [1, 4, 5]],
  [{ status: "pinned" }, [3]],
  [{ status: "proposed", authors: [2] }, [6]],
  [{ kind: "page" }, [4]],
  [{ authors: [77] }, []],
  [{ channel: "Lantern" }, []],
])("%j lets through %j", (filter, ids) => expect(shown(filter)).toEqual(ids));

test("whoever has left or is only in the plan can be filtered for", () => {
  const { authors, categories } = namesIn(plan, [{ id: 4, name: "A0" }], [{ id: 2, name: "C2" }]);
  expect(authors.map((a) => a.name)).toEqual(["A0", "A1", "A2", "A3", "A9"]);
  expect(categories).toEqual([
    { value: 1, name: "C1" },
    { value: 2, name: "C2" },
  ]);
});

test("a lens goes through the address and back", () => {
  const said = throughLens({ view: "month", authors: [3, 1], kind: "page" });
  const search = new URLSearchParams();
  for (const [key, value] of Object.entries(said)) if (value) search.set(key, String(value));
  expect(readShown(search)).toMatchObject({
    view: "month",
    filter: { authors: [3, 1], categories: [], status: "", kind: "page" },
  });
  expect(readShown(new URLSearchParams("authors=x,0,2,2,1e99")).filter.authors).toEqual([2]);
});

const mark = (title: string, more: Partial<DeedMark>) => ({ kind: "share", title, ...more }) as DeedMark;

test.each([
  [{}, ["a", "b", "c", "d"]],
  [{ authors: [1] }, ["a"]],
  [{ categories: [2] }, ["b", "c"]],
  [{ channel: "Lantern" }, ["a", "b"]],
  [{ channel: "Lan" }, []],
])("%j lets through the marks %j", (filter, titles) =>
  expect(
    filteredMarks(
      [
        mark("a", { authorId: 1, categoryId: 1, channel: "Lantern" }),
        mark("b", { authorId: 2, categoryId: 2, channel: "Hearth, Lantern" }),
        mark("c", { authorId: 2, categoryId: 2, kind: "republish" }),
        mark("d", { channel: "Crier" }),
      ],
      { ...none, ...filter },
    ).map((m) => m.title),
  ).toEqual(titles),
);
