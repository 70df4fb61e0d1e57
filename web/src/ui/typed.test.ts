import { describe, expect, it } from "vitest";
import { readDate, readTime, readWhole } from "./typed";

describe("a time as people type it", () => {
  it.each([
    ["9:40", "09:40"],
    ["09:40", "09:40"],
    ["0940", "09:40"],
    ["940", "09:40"],
    ["9.40", "09:40"],
    ["9h40", "09:40"],
    ["9", "09:00"],
    ["9 am", "09:00"],
    ["12 am", "00:00"],
    ["12pm", "12:00"],
    ["9:40 pm", "21:40"],
    ["9.40 p.m.", "21:40"],
    ["2130", "21:30"],
    [" 7:05 ", "07:05"],
    ["0", "00:00"],
    ["noon", "12:00"],
    ["24:00", "24:00"],
  ])("%s", (typed, read) => expect(readTime(typed)).toBe(read));

  it.each(["", "25:00", "9:60", "24:01", "13 pm", "0 am", "9:4", "abc", "9:40:10", "-1", "12345", "９:40"])(
    "%s cannot be read",
    (typed) => expect(readTime(typed)).toBeUndefined(),
  );

  it("goes past midnight where windows may", () => {
    expect(readTime("26:30", 48 * 60)).toBe("26:30");
    expect(readTime("48:00", 48 * 60)).toBe("48:00");
    expect(readTime("48:01", 48 * 60)).toBeUndefined();
  });
});

describe("a date as people type it", () => {
  const today = "2026-11-27"; // a Friday

  it.each([
    ["4 Dec", "2026-12-04"],
    ["4 december", "2026-12-04"],
    ["Dec 4", "2026-12-04"],
    ["4th Dec", "2026-12-04"],
    ["4. Dec.", "2026-12-04"],
    ["Fri 4 Dec", "2026-12-04"],
    ["Friday, 4 December 2026", "2026-12-04"],
    ["4 Dec 2027", "2027-12-04"],
    ["4 Dec 27", "2027-12-04"],
    ["the 4th", undefined],
    ["4/12", "2026-12-04"],
    ["4.12.", "2026-12-04"],
    ["4.12.2027", "2027-12-04"],
    ["2026-12-04", "2026-12-04"],
    ["1 Oct", "2026-10-01"], // lately gone: looked back at
    ["1 Mar", "2027-03-01"], // long gone: meant ahead
    ["29 Feb", "2028-02-29"],
    ["today", "2026-11-27"],
    ["Tomorrow", "2026-11-28"],
    ["yesterday", "2026-11-26"],
    ["mon", "2026-11-30"],
    ["friday", "2026-12-04"], // the next one, not today
    ["next tue", "2026-12-01"],
    ["in 3 days", "2026-11-30"],
    ["2 weeks", "2026-12-11"],
    ["in 1 month", "2026-12-27"],
    ["30 Feb", undefined],
    ["31/4", undefined],
    ["13/13", undefined],
    ["4", undefined],
    ["Dec", undefined],
    ["2026-13-01", undefined],
    ["4 Dec 2026 10:00", undefined],
    ["", undefined],
    ["frimble", undefined],
  ])("%s", (typed, read) => expect(readDate(typed, today)).toBe(read));

  it("looks back where that is meant", () => {
    expect(readDate("4 Dec", today, "back")).toBe("2025-12-04");
    expect(readDate("27 Nov", today, "back")).toBe("2026-11-27");
    expect(readDate("29 Feb", today, "back")).toBe("2024-02-29");
  });
});

describe("a whole number", () => {
  it.each([
    ["12", 12],
    [" 0 ", 0],
    ["-3", -3],
    ["1.5", undefined],
    ["1e3", undefined],
    ["", undefined],
    ["1234567890", undefined],
  ])("%s", (typed, read) => expect(readWhole(typed)).toBe(read));
});
