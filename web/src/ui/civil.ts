import { Temporal } from "./temporal";

/** The first day of a week, as one likes it. */
export type WeekStart = "monday" | "sunday" | "saturday";

/** The parts of a civil date as they are shown. All dates are the site's; the browser's own zone plays no part. */
export function dateParts(date: string) {
  const d = Temporal.PlainDate.from(date);
  return {
    weekday: d.toLocaleString("en-GB", { weekday: "short" }),
    day: String(d.day),
    month: d.toLocaleString("en-GB", { month: "short" }),
    weekend: d.dayOfWeek > 5,
    first: d.day === 1,
  };
}

/** "Wednesday 25 November 2026" */
export function longDate(date: string): string {
  return Temporal.PlainDate.from(date).toLocaleString("en-GB", {
    weekday: "long",
    day: "numeric",
    month: "long",
    year: "numeric",
  });
}

/** "25 November 2026" */
export function plainDate(date: string): string {
  return Temporal.PlainDate.from(date).toLocaleString("en-GB", {
    day: "numeric",
    month: "long",
    year: "numeric",
  });
}

export function addDays(date: string, days: number): string {
  return Temporal.PlainDate.from(date).add({ days }).toString();
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
