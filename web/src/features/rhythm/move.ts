import { hhmm, minutesOf } from "../../ui/civil";
import { isTime } from "../../ui/typed";
import type { Opening } from "./rhythm";

/** What of an opening is being moved: all of it, its beginning, or its end (of a fixed time: its sway). */
export type Part = "all" | "from" | "to";

/** Openings move in steps of so many minutes. */
export const step = 5;

const lastFrom = 24 * 60 - step;
const lastTo = 48 * 60;
const maxSway = 720;

const clamp = (n: number, least: number, most: number) => Math.min(Math.max(n, least), most);

/** Whether an opening has a place on the tape: not while a part of it is being typed. */
export function drawable(o: Opening): boolean {
  return isTime(o.from) && isTime(o.to ?? "24:00") && !Number.isNaN(o.sway);
}

/** The minutes that an opening reaches over on its day. */
export function reach(o: Opening): { from: number; to: number } {
  const from = minutesOf(o.from);
  if (o.kind === "window") return { from, to: minutesOf(o.to ?? "24:00") };
  const sway = o.sway ?? 0;
  return { from: from - sway, to: from + sway + 1 };
}

/** The change that moves a part of an opening by so many minutes, as far as it can go. */
export function moved(o: Opening, part: Part, by: number): Partial<Opening> {
  const from = minutesOf(o.from);
  if (o.kind === "time") {
    if (part === "all") return { from: hhmm(clamp(from + by, 0, lastFrom)) };
    const sway = (o.sway ?? 0) + (part === "to" ? by : -by);
    return { sway: clamp(sway, 0, maxSway) };
  }
  const to = minutesOf(o.to ?? "24:00");
  switch (part) {
    case "from":
      return { from: hhmm(clamp(from + by, 0, Math.min(to - step, lastFrom))) };
    case "to":
      return { to: hhmm(clamp(to + by, from + step, lastTo)) };
    case "all": {
      const shift = clamp(by, -from, Math.min(lastFrom - from, lastTo - to));
      return { from: hhmm(from + shift), to: hhmm(to + shift) };
    }
  }
}

/** An opening in words, for those who do not see the tape. */
export function spoken(o: Opening): string {
  const when =
    o.kind === "window"
      ? `${o.from} to ${o.to}, ${o.count === 1 ? "1 post" : `${o.count} posts`}`
      : `${o.from}, give or take ${o.sway ?? 0} min`;
  return `${o.weekdays.join(", ")}: ${when}`;
}
