import { expect, test } from "vitest";
import { labels } from "./layout";

test("a label has the room up to the next mark, or before its own where the day ends", () => {
  expect(labels([60, 600])).toEqual([
    { side: "after", minutes: 540, at: 60 },
    { side: "after", minutes: 840, at: 600 },
  ]);
  expect(labels([60, 1400])).toEqual([
    { side: "after", minutes: 1190, at: 60 },
    { side: "before", minutes: 150, at: 1400 },
  ]);
  expect(labels([1400])).toEqual([{ side: "before", minutes: 1400, at: 1400 }]);
});

test("marks of one minute share the room, side by side", () => {
  expect(labels([0, 0, 600])).toEqual([
    { side: "after", minutes: 300, at: 0 },
    { side: "after", minutes: 300, at: 300 },
    { side: "after", minutes: 840, at: 600 },
  ]);
  expect(labels([1400, 1400])).toEqual([
    { side: "before", minutes: 700, at: 1400 },
    { side: "before", minutes: 700, at: 700 },
  ]);
  expect(labels([0, 0, 200])).toEqual([
    { side: "after", minutes: 200, at: 0 },
    { side: "after", minutes: 200, at: 0 },
    { side: "after", minutes: 1240, at: 200 },
  ]);
});

test("a mark with no room of its own takes some of the label before it", () => {
  expect(labels([450, 790, 810])).toEqual([
    { side: "after", minutes: 190, at: 450 },
    { side: "before", minutes: 150, at: 790 },
    { side: "after", minutes: 630, at: 810 },
  ]);
});

test("marks that stand close keep labels that can be hit", () => {
  expect(labels([450, 725, 790, 815])).toEqual([
    { side: "after", minutes: 137.5, at: 450 },
    { side: "before", minutes: 137.5, at: 725 },
    { side: "before", minutes: 65, at: 790 },
    { side: "after", minutes: 625, at: 815 },
  ]);
});
