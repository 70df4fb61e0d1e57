import { QueryClient } from "@tanstack/react-query";
import { beforeEach, expect, test } from "vitest";
import { refresh, type Part, type Versions } from "./shown";

const keys = [
  ["plan", "dome", "almanac", "today", 14],
  ["plan", "dome", "status"],
  ["plan", "dome", "posts", {}],
  ["plan", "dome", "post", 7],
  ["plan", "dome", "post", 7, "log"],
  ["plan", "dome", "post", 8],
  ["plan", "dome", "reflow", {}],
  ["plan", "dome", "rules"],
  ["rhythm", "dome"],
  ["plan", "lanes", "posts", {}],
];

let queries: QueryClient;

beforeEach(() => {
  queries = new QueryClient();
  for (const key of keys) queries.setQueryData(key, { version: 3 });
});

/** What is asked for anew, less the site. */
function asked(parts: Part[], versions?: Versions) {
  refresh(queries, "dome", parts, versions);
  return keys
    .filter((key) => queries.getQueryState(key)?.isInvalidated)
    .map((key) => key.filter((k, i) => i !== 1 && typeof k !== "object").join(" "));
}

test("a text that one has just saved asks for no post, and not for the plan", () => {
  expect(asked(["text"], [{ id: 7, version: 3 }])).toEqual(["plan posts"]);
});

test("a text that somebody else saved asks for that post", () => {
  expect(asked(["text"], [{ id: 7, version: 4 }])).toEqual(["plan posts", "plan post 7"]);
});

test("a title is shown by the plan, and proposes no other slot", () => {
  expect(asked(["title"], [{ id: 7, version: 3 }])).toEqual([
    "plan almanac today 14",
    "plan status",
    "plan posts",
  ]);
});

test("a change of the plan asks for all that shows it, and for histories", () => {
  expect(asked(["plan"], [{ id: 8, version: 4 }])).toEqual([
    "plan almanac today 14",
    "plan status",
    "plan posts",
    "plan post 7 log",
    "plan post 8",
    "plan reflow",
    "plan rules",
  ]);
});

test("where it is not known which posts changed, all that are shown are asked for", () => {
  expect(asked(["plan"])).toContain("plan post 7");
  expect(asked(["plan"])).toContain("plan post 8");
});

test("rules and the rhythm ask for no post, and forms that are open stay as they are", () => {
  expect(asked(["rules", "rhythm"])).toEqual([
    "plan almanac today 14",
    "plan status",
    "plan reflow",
    "plan rules",
  ]);
});

test("after a lost connection everything of the site is asked for", () => {
  expect(asked(["all"])).toHaveLength(8);
});
