import { describe, expect, it } from "vitest";
import {
  ageOf,
  ageScale,
  ageWords,
  panned,
  shownTicks,
  spanAt,
  spanWords,
  wholeStretch,
  zoomed,
} from "./scale";

describe("the age axis", () => {
  it("gives equal factors equal distances", () => {
    const x = ageScale({ from: 1, to: 1000 }, 300);
    expect([x(1), x(10), x(100), x(1000)].map(Math.round)).toEqual([0, 100, 200, 300]);
  });
  it("has an age for what came out this minute", () => {
    expect(ageOf("2026-11-24T12:00:00Z", Date.parse("2026-11-24T12:00:00Z"))).toBeCloseTo(1 / 12);
    expect(ageOf("2026-11-24T12:00:00Z", Date.parse("2026-12-04T12:00:00Z"))).toBe(10);
  });
  it("shows ticks that can be read", () => {
    const shown = shownTicks({ from: 0.5, to: 4000 }, 900);
    for (let i = 1; i < shown.length; i++) expect(shown[i]!.x - shown[i - 1]!.x).toBeGreaterThanOrEqual(72);
    expect(shown.map((t) => t.name)).toContain("1 year");
  });
  it("zooms round an age that keeps its place, and out no further than the whole", () => {
    const whole = wholeStretch([2, 900]);
    const near = zoomed(whole, whole, 2, 30);
    expect(ageScale(near, 1000)(30)).toBeCloseTo(ageScale(whole, 1000)(30), 6);
    expect(near.to / near.from).toBeCloseTo(Math.sqrt(whole.to / whole.from), 6);
    expect(zoomed(near, whole, 1 / 8, 30)).toEqual(whole);
  });
  it("moves within the whole", () => {
    const whole = { from: 1, to: 10_000 };
    const older = panned({ from: 10, to: 100 }, whole, 0.5);
    expect(older.from).toBeCloseTo(31.62, 1);
    expect(panned({ from: 10, to: 100 }, whole, 9).to).toBeCloseTo(10_000, 6);
    expect(panned({ from: 10, to: 100 }, whole, -9).from).toBeCloseTo(1, 6);
  });
});

describe("ages in words", () => {
  it.each([
    [0.2, "less than a day"],
    [1, "1 day"],
    [13.9, "13 days"],
    [15, "2 weeks"],
    [61, "2 months"],
    [365.25, "11 months"],
    [731, "2 years"],
  ])("%d days are %s", (days, said) => expect(ageWords(days)).toBe(said));
  it("snaps to whole units, at least one", () => {
    expect([spanAt(10.4, "days"), spanAt(0.1, "days"), spanAt(45, "months"), spanAt(46, "months")]).toEqual([
      10, 1, 1, 2,
    ]);
    expect([spanWords(1, "weeks"), spanWords(3, "years")]).toEqual(["1 week", "3 years"]);
  });
});
