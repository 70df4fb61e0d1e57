import { expect, test } from "vitest";
import type { DeedMark } from "../plan/marks";
import { isMovable } from "../plan/markDeeds";
import { steered } from "./markHand";

const aim = { date: "2026-11-30", minute: 600 };

test.each([
  ["ArrowLeft", false, { minute: 595 }],
  ["ArrowLeft", true, { minute: 599 }],
  ["ArrowRight", false, { minute: 605 }],
  ["ArrowUp", false, { date: "2026-11-29" }],
  ["ArrowDown", false, { date: "2026-12-01" }],
  ["ArrowDown", true, { date: "2026-12-07" }],
])("%s (shift: %s) moves it", (key, shift, to) =>
  expect(steered(aim, key, shift)).toEqual({ ...aim, ...to }),
);

test("a day has its ends, and other keys move nothing", () => {
  expect(steered({ ...aim, minute: 1437 }, "ArrowRight", false)?.minute).toBe(1439);
  expect(steered({ ...aim, minute: 2 }, "ArrowLeft", false)?.minute).toBe(0);
  expect(steered(aim, "a", false)).toBeUndefined();
});

test("only messages to come are moved", () => {
  const mark = (more: Partial<DeedMark>) => more as DeedMark;
  expect(isMovable(mark({ state: "coming", messages: [{ turn: "2026-12-01T12:00:00Z" }] }))).toBe(true);
  expect(isMovable(mark({ state: "coming" }))).toBe(false);
  expect(isMovable(mark({ state: "done", messages: [{ outingId: 1 }] }))).toBe(false);
});
