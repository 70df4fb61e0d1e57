import { act, renderHook } from "@testing-library/react";
import type { ReactNode } from "react";
import { BrowserRouter, useSearchParams } from "react-router";
import { beforeEach, describe, expect, test } from "vitest";
import { useFilter } from "../posts/posts";
import { useAsked } from "../results/results";
import { asLens, readShown, shownNow, throughLens, useShown } from "./shown";
import { readSort, writeSort } from "./sort";
import { stepped, stretchOf } from "./view";

const inAddress = ({ children }: { children: ReactNode }) => <BrowserRouter>{children}</BrowserRouter>;

beforeEach(() => window.history.replaceState(null, "", "/dome"));

describe("an address of the Almanac", () => {
  test.each([
    ["", { view: "tape", span: 14, zoom: 0, post: undefined }],
    [
      "view=month&span=7&zoom=60&post=12&day=2026-12-04",
      { view: "month", span: 7, zoom: 60, post: 12, day: "2026-12-04" },
    ],
    ["view=clay&span=9&zoom=-1&post=twelve", { view: "tape", span: 14, zoom: 0, post: undefined }],
    ["from=2026-13-40&day=soon", { from: undefined, day: undefined }],
    ["sort=-title", { sort: { id: "title", desc: true } }],
    [
      "sort=--title&authors=1,x,3",
      { sort: { id: "time", desc: false }, filter: expect.objectContaining({ authors: [1, 3] }) },
    ],
  ])("%s", (search, shown) => expect(readShown(new URLSearchParams(search))).toMatchObject(shown));

  test("says only what is not as usual, and keeps what was not changed", () => {
    window.history.replaceState(null, "", "/dome?authors=3&post=5&mark=x");
    const { result } = renderHook(() => useShown(useSearchParams()[1]), { wrapper: inAddress });
    act(() => result.current({ view: "list", sort: "title" }));
    expect(window.location.search).toBe("?authors=3&view=list&sort=title");
    act(() => result.current({ view: "tape", sort: "time", post: 7 }));
    expect(window.location.search).toBe("?authors=3&post=7");
  });

  test("another view is a step back; another post is not", () => {
    const { result } = renderHook(() => useShown(useSearchParams()[1]), { wrapper: inAddress });
    const before = window.history.length;
    act(() => result.current({ post: 7 }));
    expect(window.history.length).toBe(before);
    act(() => result.current({ view: "month" }));
    expect(window.history.length).toBe(before + 1);
  });
});

describe("a lens", () => {
  test("keeps the view, the span and every filter, as the address has them now", () => {
    window.history.replaceState(
      null,
      "",
      "/dome?view=list&span=28&from=2026-12-04&authors=3,4&categories=2&status=held&kind=page&channel=Lantern",
    );
    const kept = asLens(shownNow());
    expect(kept).toEqual({
      view: "list",
      span: 28,
      authors: [3, 4],
      categories: [2],
      status: "held",
      kind: "page",
      channel: "Lantern",
    });
    // And gives all of it back.
    const { result } = renderHook(() => useShown(useSearchParams()[1]), { wrapper: inAddress });
    window.history.replaceState(null, "", "/dome?view=month&zoom=60&channel=Kite");
    act(() => result.current(throughLens(kept)));
    expect(asLens(shownNow())).toEqual(kept);
  });

  test("says nothing of what is not narrowed", () =>
    expect(asLens(shownNow())).toEqual({ view: "tape", span: 14, authors: [], categories: [] }));
});

describe("what results are asked for", () => {
  test("two changes at once are both kept", () => {
    const { result } = renderHook(() => useAsked(), { wrapper: inAddress });
    act(() => {
      result.current[1]({ by: "channel" });
      result.current[1]({ days: 30 });
    });
    expect(result.current[0]).toMatchObject({ by: "channel", days: 30 });
  });
});

test.each(["time", "-time", "title", "-author"])("the sort %s goes through the address and back", (sort) =>
  expect(writeSort(readSort(sort))).toBe(sort),
);

describe("an address of the posts", () => {
  test("a search is by relevance, and its end is not", () => {
    const { result } = renderHook(() => useFilter(), { wrapper: inAddress });
    act(() => result.current.set({ text: "comet", tags: [4, 2] }));
    expect(window.location.search).toBe("?text=comet&tags=4%2C2");
    expect(result.current.filter).toMatchObject({ sort: "relevance", tags: [4, 2], text: "comet" });
    expect(result.current.narrowed).toBe(true);
    act(() => result.current.set({ text: "" }));
    expect(result.current.filter).toMatchObject({ sort: "changed", text: "", tags: [4, 2] });
  });

  test("two changes at once are both kept; clearing keeps the status", () => {
    const { result } = renderHook(() => useFilter(), { wrapper: inAddress });
    act(() => {
      result.current.set({ stage: "scheduled" });
      result.current.set({ kind: "page" });
    });
    expect(result.current.filter).toMatchObject({ stage: "scheduled", kind: "page" });
    act(() => result.current.clear());
    expect(window.location.search).toBe("?stages=scheduled");
  });
});

describe("the days that a view shows", () => {
  test.each([
    ["tape", "2026-12-04", 14, "monday", { from: "2026-12-04", days: 14 }],
    ["month", "2026-12-04", 14, "monday", { from: "2026-11-30", days: 35 }],
    ["month", "2026-12-04", 14, "sunday", { from: "2026-11-29", days: 35 }],
    ["month", "2026-12-04", 14, "saturday", { from: "2026-11-28", days: 35 }],
    ["month", "2027-02-10", 14, "monday", { from: "2027-02-01", days: 28 }],
    ["month", "2026-08-31", 14, "monday", { from: "2026-07-27", days: 42 }],
  ] as const)("%s from %s, %i days, weeks from %s", (view, from, span, week, shown) =>
    expect(stretchOf(view, from, span, undefined, week)).toEqual(shown),
  );
  test.each([
    ["tape", "2026-12-04", 14, true, "2026-12-11"],
    ["tape", "2026-12-04", 1, false, "2026-12-03"],
    ["list", "2026-12-04", 7, true, "2026-12-11"],
    ["month", "2026-12-31", 14, true, "2027-01-01"],
    ["month", "2026-03-31", 14, false, "2026-02-01"],
  ] as const)("%s from %s with %i days, forward %s: %s", (view, first, span, forward, next) =>
    expect(stepped(view, first, span, forward)).toBe(next),
  );
});
