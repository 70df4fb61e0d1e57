import { Temporal } from "../../ui/temporal";

/** The views of the plan; all show the same days. */
export const views = [
  { view: "tape", name: "Tape", keys: "v t" },
  { view: "month", name: "Month", keys: "v m" },
  { view: "list", name: "List", keys: "v l" },
] as const;

export type View = (typeof views)[number]["view"];

/** How many days the tape and the list can show. */
export const spans = [
  { value: 1, name: "A day" },
  { value: 7, name: "A week" },
  { value: 14, name: "Two weeks" },
  { value: 28, name: "Four weeks" },
  { value: 56, name: "Eight weeks" },
];

export const usualSpan = 14;

/** How wide an hour of the tape is, in pixels; 0 fits a day to the window. */
export const zooms = [
  { value: 0, name: "Whole day" },
  { value: 60, name: "Wide" },
  { value: 100, name: "Wider" },
  { value: 200, name: "Widest" },
];

export type WeekStart = "monday" | "sunday" | "saturday";

/** ISO numbers of the days on which weeks begin. */
const weekStarts = { monday: 1, saturday: 6, sunday: 7 };

/** The first day and the number of days that a view shows. A month is shown in whole weeks. */
export function stretchOf(
  view: View,
  from: string | undefined,
  span: number,
  today: string | undefined,
  weekStart: WeekStart = "monday",
) {
  if (view !== "month") return { from, days: span };
  const day = from ?? today;
  if (!day) return { from: undefined, days: 42 };
  const first = Temporal.PlainDate.from(day).with({ day: 1 });
  const before = (first.dayOfWeek - weekStarts[weekStart] + 7) % 7;
  const start = first.subtract({ days: before });
  const weeks = Math.ceil((first.daysInMonth + before) / 7);
  return { from: start.toString(), days: weeks * 7 };
}

/** The day from which the stretch before or after the shown one begins. */
export function stepped(view: View, first: string, span: number, forward: boolean): string {
  const day = Temporal.PlainDate.from(first);
  if (view === "month")
    return day
      .with({ day: 1 })
      .add({ months: forward ? 1 : -1 })
      .toString();
  const step = span > 7 ? 7 : span;
  return day.add({ days: forward ? step : -step }).toString();
}

/** "December 2026" */
export function monthName(date: string): string {
  return Temporal.PlainDate.from(date).toLocaleString("en-GB", { month: "long", year: "numeric" });
}

/** By how much one goes to earlier or later days. */
export function unitOf(view: View, span: number): string {
  return view === "month" ? "month" : span === 1 ? "day" : "week";
}
