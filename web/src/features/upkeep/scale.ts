import { scaleLog } from "d3-scale";

/** Part of the age axis, in days: what is shown from its left end to its right one. */
export type Stretch = { from: number; to: number };

/** The youngest age that has a place of its own: two hours. What is younger sits there. */
export const youngest = 1 / 12;

const day = 24 * 60 * 60 * 1000;

/** How old something of a moment is, in days. */
export const ageOf = (published: string, now: number) =>
  Math.max((now - Date.parse(published)) / day, youngest);

/** The place of an age on an axis of a width: equal factors are equal distances. */
export function ageScale({ from, to }: Stretch, width: number) {
  return scaleLog<number, number>().domain([from, to]).range([0, width]);
}

export type Tick = { days: number; name: string };

/** The ages that are marked on the axis, by the calendar. */
export const ticks: Tick[] = [
  { days: 1 / 8, name: "3 hours" },
  { days: 1, name: "1 day" },
  { days: 3, name: "3 days" },
  { days: 7, name: "1 week" },
  { days: 14, name: "2 weeks" },
  { days: 30.44, name: "1 month" },
  { days: 91.3, name: "3 months" },
  { days: 182.6, name: "6 months" },
  { days: 365.25, name: "1 year" },
  { days: 730.5, name: "2 years" },
  { days: 1826, name: "5 years" },
  { days: 3652.5, name: "10 years" },
  { days: 7305, name: "20 years" },
];

/** Those ticks of a stretch that are far enough apart to be read. */
export function shownTicks(stretch: Stretch, width: number, apart = 72): (Tick & { x: number })[] {
  const x = ageScale(stretch, width);
  const shown: (Tick & { x: number })[] = [];
  for (const t of ticks) {
    const at = x(t.days);
    const last = shown.at(-1);
    if (at < 0 || at > width || (last && at - last.x < apart)) continue;
    shown.push({ ...t, x: at });
  }
  return shown;
}

/** All of the ages that posts have, with a margin at both ends. */
export function wholeStretch(ages: number[]): Stretch {
  let to = 30;
  for (const a of ages) to = Math.max(to, a);
  return { from: Math.min(1, to / 40) / 2, to: to * 1.25 };
}

/** A stretch by a factor nearer, round an age that keeps its place; never wider than the whole. */
export function zoomed(s: Stretch, whole: Stretch, factor: number, round: number): Stretch {
  const from = round * Math.pow(s.from / round, 1 / factor);
  const to = round * Math.pow(s.to / round, 1 / factor);
  if (to / from < 1.2) return s;
  return { from: Math.max(from, whole.from), to: Math.min(to, whole.to) };
}

/** A stretch moved by part of its own length, older where the part is positive; it stays within the whole. */
export function panned(s: Stretch, whole: Stretch, part: number): Stretch {
  const length = Math.log(s.to / s.from);
  let by = length * part;
  by = Math.min(by, Math.log(whole.to / s.to));
  by = Math.max(by, Math.log(whole.from / s.from));
  return { from: s.from * Math.exp(by), to: s.to * Math.exp(by) };
}

const units = { hours: 1 / 24, days: 1, weeks: 7, months: 30.44, years: 365.25 } as const;
export type Unit = keyof typeof units;

/** The age in whole units that is nearest to one in days: at least one unit. */
export function spanAt(days: number, unit: Unit): number {
  return Math.max(1, Math.round(days / units[unit]));
}

/** About how many days a span is. */
export const daysOf = (n: number, unit: Unit) => n * units[unit];

/** "10 days", "1 month". */
export const spanWords = (n: number, unit: Unit) => (n === 1 ? `1 ${unit.slice(0, -1)}` : `${n} ${unit}`);

/** "3 days", "5 weeks", "7 months", "4 years": an age in the unit that says most. */
export function ageWords(days: number): string {
  if (days < 1) return "less than a day";
  const [unit, n] =
    days < 15
      ? (["day", days] as const)
      : days < 60
        ? (["week", days / 7] as const)
        : days < 700
          ? (["month", days / 30.44] as const)
          : (["year", days / 365.25] as const);
  const whole = Math.floor(n + 1e-9);
  return whole === 1 ? `1 ${unit}` : `${whole} ${unit}s`;
}
