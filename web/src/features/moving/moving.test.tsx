import { act, fireEvent, render, screen } from "@testing-library/react";
import { useRef } from "react";
import { afterEach, beforeEach, describe, expect, it, test, vi } from "vitest";
import { setSiteZone } from "../../ui/siteClock";
import type { Almanac } from "../plan/almanac";
import { landsOn, movable, type Held } from "./held";
import { movedWords, type DayGround, type MovedPost } from "./moves";
import { useHand, type Aim } from "./useHand";

vi.mock("./moves", async (original) => ({
  ...(await original<typeof import("./moves")>()),
  groundOf: vi.fn(() => Promise.resolve(new Map<string, DayGround>())),
}));

const ground = (landings: { from: number; to: number; at?: number }[]) => ({ landings }) as DayGround;

describe("the minute on which a post lands", () => {
  const day = ground([
    { from: 0, to: 540, at: 540 },
    { from: 600, to: 640, at: 599 },
    { from: 1400, to: 1440 },
  ]);
  test.each([
    [0, 540],
    [539, 540],
    [540, 540],
    [599, 599],
    [600, 599],
    [639, 599],
    [640, 640],
    [1399, 1399],
    [1439, undefined],
  ])("let go at %i, it is on %s", (minute, lands) => expect(landsOn(day, minute)).toBe(lands));
  it("is the one it is let go at, where nothing is known", () => expect(landsOn(undefined, 77)).toBe(77));
});

test("drafts with a title, the shelf and what is scheduled can be moved; what is out cannot", () => {
  const plan = {
    drafts: [
      { id: 1, version: 3, title: "Written" },
      { id: 2, version: 1, title: "" },
    ],
    shelf: [
      { id: 3, version: 1, title: "With a slot", proposed: { date: "2026-12-04", minute: 500 } },
      { id: 4, version: 1, title: "Without" },
    ],
    days: [
      {
        entries: [
          { id: 5, version: 7, title: "Planned", status: "scheduled", date: "2026-12-05", minute: 600 },
          { id: 6, version: 1, title: "Out", status: "published", date: "2026-12-01", minute: 9 },
        ],
      },
    ],
    held: [{ id: 7, version: 2, title: "Held", status: "scheduled", date: "2026-12-01", minute: 30 }],
  } as unknown as Almanac;
  const posts = movable(plan);
  expect([...posts.keys()]).toEqual([1, 3, 4, 5, 7]);
  expect(posts.get(1)).toEqual({ id: 1, version: 3, title: "Written", draft: true });
  expect(posts.get(3)).toMatchObject({ shelf: 0, date: "2026-12-04", minute: 500, draft: true });
  expect(posts.get(4)).not.toHaveProperty("minute");
  expect(posts.get(4)).toMatchObject({ shelf: 1 });
  expect(posts.get(5)).toMatchObject({ draft: false, version: 7, minute: 600 });
});

describe("what is said of a move", () => {
  setSiteZone("America/Halifax");
  const moved = (id: number, to: boolean, note = "") =>
    ({
      id,
      version: 1,
      title: `T${id}`,
      note,
      ...(to ? { to: { date: "2044-12-04", minute: 623 } } : {}),
    }) as MovedPost;
  test.each([
    [[], "Nothing was moved."],
    [[moved(1, true)], "“T1” moved to Sun 4 Dec 2044, 10:23."],
    [[moved(1, true, "It is pinned.")], "“T1” moved to Sun 4 Dec 2044, 10:23. It is pinned."],
    [[moved(1, false)], "“T1” is back at the front of the shelf."],
    [[moved(1, true), moved(2, true, "It is pinned.")], "2 posts moved. “T2”: It is pinned."],
    [[moved(1, false), moved(2, false)], "2 posts put back on the shelf."],
  ])("%j", (all, words) => expect(movedWords(all)).toBe(words));
});

describe("a post that is lifted by keys", () => {
  const posts = new Map<number, Held>(
    [
      { id: 1, version: 1, title: "Comet", date: "2026-12-04", minute: 623, draft: false },
      { id: 2, version: 1, title: "Late", date: "2026-12-04", minute: 1439, draft: false },
      { id: 3, version: 1, title: "Waits", draft: true, shelf: 0 },
    ].map((p) => [p.id, p]),
  );
  let dropped: { ids: number[]; aim: Aim }[] = [];

  function Board({ picked = [], enabled = true }: { picked?: number[]; enabled?: boolean }) {
    const root = useRef<HTMLDivElement>(null);
    useHand(root, {
      site: "dome",
      enabled,
      posts,
      picked: new Set(picked),
      from: "2026-12-01",
      days: 14,
      onPick: () => {},
      onDrop: (held, aim) => dropped.push({ ids: held.map((p) => p.id), aim }),
    });
    return (
      <div ref={root}>
        {[...posts.values()].map((p) => (
          <button key={p.id} data-post={p.id}>
            {p.title}
          </button>
        ))}
        <div data-hand="box" />
        <div data-hand="line" />
        <div data-hand="label">
          <div />
          <div />
        </div>
        <div data-hand="said" data-testid="said" />
      </div>
    );
  }

  beforeEach(() => {
    dropped = [];
    vi.useFakeTimers();
  });
  afterEach(() => vi.useRealTimers());

  /** Presses keys on a post, one after the other; "S-" stands for Shift. */
  function keys(title: string, ...pressed: string[]) {
    const post = screen.getByText(title, { selector: "button" });
    act(() => post.focus());
    for (const key of pressed)
      fireEvent.keyDown(post, { key: key.replace("S-", ""), shiftKey: key.startsWith("S-"), bubbles: true });
    act(() => void vi.advanceTimersByTime(200));
  }

  test.each([
    ["Comet", ["ArrowRight"], { date: "2026-12-04", minute: 624 }],
    ["Comet", ["ArrowLeft", "ArrowLeft"], { date: "2026-12-04", minute: 621 }],
    ["Comet", ["S-ArrowRight"], { date: "2026-12-04", minute: 638 }],
    ["Comet", ["ArrowUp"], { date: "2026-12-03" }],
    ["Comet", ["S-ArrowDown", "ArrowDown"], { date: "2026-12-12" }],
    ["Comet", ["ArrowDown", "ArrowRight"], { date: "2026-12-05", minute: 624 }],
    ["Late", ["ArrowRight", "S-ArrowRight"], { date: "2026-12-04", minute: 1439 }],
    ["Waits", [], { date: "2026-12-01" }],
    ["Waits", ["ArrowRight"], { date: "2026-12-01", minute: 541 }],
  ])("%s: %j", (title, pressed, aim) => {
    render(<Board />);
    keys(title, "h", ...pressed, "Enter");
    expect(dropped).toHaveLength(1);
    expect(dropped[0]!.aim).toMatchObject({ on: "day", ...aim });
    if (!("minute" in aim)) expect(dropped[0]!.aim).not.toHaveProperty("minute", expect.any(Number));
  });

  it("stays where it was on Escape, and goes to the shelf on Delete", () => {
    render(<Board />);
    keys("Comet", "h", "ArrowRight", "Escape");
    expect(dropped).toEqual([]);
    expect(screen.getByTestId("said").textContent).toContain("where it was");
    keys("Comet", "h", "Delete");
    keys("Late", "Delete");
    expect(dropped).toEqual([
      { ids: [1], aim: { on: "shelf" } },
      { ids: [2], aim: { on: "shelf" } },
    ]);
  });

  it("takes the others that are chosen with it, itself first", () => {
    render(<Board picked={[1, 2]} />);
    keys("Late", "h", "ArrowDown", "Enter");
    keys("Waits", "h", "Enter");
    expect(dropped.map((d) => d.ids)).toEqual([[2, 1], [3]]);
  });

  it("says first what the keys do, then where it is", () => {
    render(<Board />);
    keys("Comet", "h");
    expect(screen.getByTestId("said").textContent).toContain("Lifted: Comet");
    keys("Comet", "ArrowRight");
    expect(screen.getByTestId("said").textContent).toContain("10:24");
  });

  it("is not lifted where nothing may be changed", () => {
    render(<Board enabled={false} />);
    keys("Comet", "h", "ArrowRight", "Enter");
    expect(dropped).toEqual([]);
  });
});
