import { Temporal, type PlainDate } from "./temporal";

/** The first day of a week, as one likes it. */
export type WeekStart = "monday" | "sunday" | "saturday";

// What days and months are called. A date on a screen is made of these: to have the language put each one together
// takes ten times as long as all the rest of a row.
const monday = Temporal.PlainDate.from("2024-01-01");
const named = (dates: PlainDate[], options: Intl.DateTimeFormatOptions) =>
  dates.map((d) => d.toLocaleString("en-GB", options));
const weekdays = Array.from({ length: 7 }, (_, days) => monday.add({ days }));
const months = Array.from({ length: 12 }, (_, n) => monday.add({ months: n }));
const weekdayShort = named(weekdays, { weekday: "short" });
const weekdayLong = named(weekdays, { weekday: "long" });
const monthShort = named(months, { month: "short" });
const monthLong = named(months, { month: "long" });

/** The parts of a civil date as they are shown. All dates are the site's; the browser's own zone plays no part. */
export function dateParts(date: string) {
  const d = Temporal.PlainDate.from(date);
  return {
    weekday: weekdayShort[d.dayOfWeek - 1] ?? "",
    day: String(d.day),
    month: monthShort[d.month - 1] ?? "",
    weekend: d.dayOfWeek > 5,
    first: d.day === 1,
  };
}

/** "Wednesday 25 November 2026" */
export function longDate(date: string): string {
  return `${weekdayLong[Temporal.PlainDate.from(date).dayOfWeek - 1]} ${plainDate(date)}`;
}

/** "25 November 2026" */
export function plainDate(date: string): string {
  const d = Temporal.PlainDate.from(date);
  return `${d.day} ${monthLong[d.month - 1]} ${d.year}`;
}

export function addDays(date: string, days: number): string {
  return Temporal.PlainDate.from(date).add({ days }).toString();
}

/** Whether a text is a date of the calendar, such as "2026-12-04". */
export function isRealDate(text: string): boolean {
  if (!/^\d{4}-\d{2}-\d{2}$/.test(text)) return false;
  try {
    Temporal.PlainDate.from(text);
    return true;
  } catch {
    return false;
  }
}

/** How many days it is from one date to another. */
export function daysBetween(from: string, to: string): number {
  return Temporal.PlainDate.from(from).until(to).days;
}

/** Minutes since midnight as "09:40", as fields and the server have it; 24:00 is midnight at the end. */
export function hhmm(minute: number): string {
  return `${String(Math.floor(minute / 60)).padStart(2, "0")}:${String(minute % 60).padStart(2, "0")}`;
}

let twelve = false;

/** Has clocks show 12 hours, or 24. */
export function setTwelveHours(on: boolean) {
  twelve = on;
}

/** Minutes since midnight as they are shown: "09:40", or "9:40 am" to those who like it so. */
export function clock(minute: number): string {
  if (!twelve) return hhmm(minute);
  const hour = Math.floor(minute / 60) % 24;
  return `${hour % 12 || 12}:${String(minute % 60).padStart(2, "0")} ${hour < 12 ? "am" : "pm"}`;
}

/** An hour on a ruler: "09", or "9 am". */
export function hourMark(hour: number): string {
  if (!twelve) return String(hour).padStart(2, "0");
  return `${hour % 12 || 12} ${hour % 24 < 12 ? "am" : "pm"}`;
}

/** "in 3 min", "in 2 h 05", "in 4 days": how far ahead a moment is. */
export function ahead(seconds: number): string {
  if (seconds <= 0) return "now";
  if (seconds < 90) return `in ${Math.ceil(seconds)} s`;
  const minutes = Math.round(seconds / 60);
  if (minutes < 60) return `in ${minutes} min`;
  if (minutes < 24 * 60) return `in ${Math.floor(minutes / 60)} h ${String(minutes % 60).padStart(2, "0")}`;
  const days = Math.round(minutes / 1440);
  return days === 1 ? "in 1 day" : `in ${days} days`;
}

/** The last part of a zone's name: "Halifax" of America/Halifax. */
export function zoneCity(zone: string): string {
  return (zone.split("/").pop() ?? zone).replaceAll("_", " ");
}

/** "09:40" as minutes since midnight. */
export function minutesOf(text: string): number {
  const [hours = 0, minutes = 0] = text.split(":").map(Number);
  return hours * 60 + minutes;
}
