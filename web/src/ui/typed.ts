import { Temporal, type PlainDate } from "./temporal";

// Times and dates as people type them. What cannot be read is undefined, never a guess.

const endOfDay = 24 * 60;

const clockForm = /^(\d{1,2})(?:[:.h ]?(\d{2}))?\s*(?:([ap])\.?\s*m\.?)?$/i;
const named: Record<string, number> = { noon: 12 * 60, midday: 12 * 60, midnight: 0 };

/**
 * A time of day as 09:40: "9:40", "0940", "9.40", "9", "9 am", "9:40 pm", "noon". Windows that run past midnight go
 * on to the most minutes that are allowed, as 26:00.
 */
export function readTime(text: string, most = endOfDay): string | undefined {
  const said = text.trim().toLowerCase();
  const word = named[said];
  if (word !== undefined) return written(word);
  const found = clockForm.exec(said);
  if (!found) return undefined;
  const [, hours = "", minutes = "00", half] = found;
  let hour = Number(hours);
  if (half) {
    if (hour < 1 || hour > 12) return undefined;
    hour = (hour % 12) + (half === "p" ? 12 : 0);
  }
  const minute = Number(minutes);
  const all = hour * 60 + minute;
  return minute > 59 || all > most ? undefined : written(all);
}

function written(minutes: number): string {
  return `${String(Math.floor(minutes / 60)).padStart(2, "0")}:${String(minutes % 60).padStart(2, "0")}`;
}

const months = ["jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec"];
const days = ["mon", "tue", "wed", "thu", "fri", "sat", "sun"];
const relative: Record<string, number> = { today: 0, tomorrow: 1, yesterday: -1 };

/** Whether a name is a beginning of three letters or more of the full name that begins with one of these. */
function indexOf(names: string[], full: string[], said: string): number {
  return said.length < 3 ? -1 : names.findIndex((n, i) => said.startsWith(n) && full[i]!.startsWith(said));
}

const fullMonths = [
  "january",
  "february",
  "march",
  "april",
  "may",
  "june",
  "july",
  "august",
  "september",
  "october",
  "november",
  "december",
];
const fullDays = ["monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday"];

const monthOf = (said: string) =>
  said === "sept" ? 9 : indexOf(months, fullMonths, said.replace(/\.$/, "")) + 1;
const dayOf = (said: string) =>
  (said === "tues" ? 1 : said === "thurs" ? 3 : indexOf(days, fullDays, said.replace(/\.$/, ""))) + 1;

/** Which way a date without a year looks: on a plan ahead, in a search for what is out back. */
export type Toward = "ahead" | "back";

// A date without a year that is at most so long gone is still this year's: one types it to look back.
const recent = { months: 3 };

/**
 * A date as 2026-12-04: "4 Dec", "Fri 4 Dec 2026", "December 4", "4/12", "4.12.2026" (the day first), "2026-12-04",
 * "today", "tomorrow", "friday" (the next one), "in 3 days", "in 2 weeks".
 */
export function readDate(text: string, today: string, toward: Toward = "ahead"): string | undefined {
  const now = Temporal.PlainDate.from(today);
  const said = text
    .trim()
    .toLowerCase()
    .replaceAll(",", " ")
    .replaceAll(/(\d)(?:st|nd|rd|th)\b/g, "$1")
    .replaceAll(/\s+/g, " ");
  const days = relative[said];
  if (days !== undefined) return now.add({ days }).toString();
  const weekday = dayOf(said.replace(/^(next|on) /, ""));
  if (weekday > 0) return now.add({ days: ((weekday - now.dayOfWeek + 6) % 7) + 1 }).toString();
  const later = /^(?:in )?(\d{1,3}) (day|week|month|year)s?$/.exec(said);
  if (later) return now.add({ [`${later[2]}s`]: Number(later[1]) }).toString();
  return parts(said, now, toward)?.toString();
}

function parts(said: string, now: PlainDate, toward: Toward): PlainDate | undefined {
  const iso = /^(\d{4})-(\d{1,2})-(\d{1,2})$/.exec(said);
  if (iso) return exact(iso[1], iso[2], iso[3]);
  const numbers = /^(\d{1,2})[./-](\d{1,2})(?:[./-](\d{2}|\d{4})?)?$/.exec(said);
  if (numbers) return withYear(numbers[3], Number(numbers[2]), Number(numbers[1]), now, toward);
  // A weekday before it says nothing that the date does not; it is not held against it.
  const words = said.replace(/^of /, "").split(" ");
  if (words.length > 1 && dayOf(words[0]!) > 0) words.shift();
  const [first = "", second = "", year, more] = words.filter((w) => w !== "of");
  if (more !== undefined || (year !== undefined && !/^(\d{2}|\d{4})$/.test(year))) return undefined;
  const [day, month] = monthOf(second) > 0 ? [first, monthOf(second)] : [second, monthOf(first)];
  if (month < 1 || !/^\d{1,2}\.?$/.test(day)) return undefined;
  return withYear(year, month, Number.parseInt(day), now, toward);
}

function withYear(
  year: string | undefined,
  month: number,
  day: number,
  now: PlainDate,
  toward: Toward,
): PlainDate | undefined {
  if (year) return exact(year.length === 2 ? `20${year}` : year, month, day);
  // A leap day without a year is that of the next year, or the last, that has one.
  const step = toward === "ahead" ? 1 : -1;
  for (let n = 0; n < 9; n++) {
    const date = exact(now.year + n * step, month, day);
    if (!date) continue;
    const fits =
      toward === "ahead"
        ? Temporal.PlainDate.compare(date, now.subtract(recent)) >= 0
        : Temporal.PlainDate.compare(date, now) <= 0;
    if (fits) return date;
  }
  return undefined;
}

function exact(
  year: string | number | undefined,
  month: string | number | undefined,
  day: string | number | undefined,
): PlainDate | undefined {
  try {
    return Temporal.PlainDate.from(
      { year: Number(year), month: Number(month), day: Number(day) },
      { overflow: "reject" },
    );
  } catch {
    return undefined;
  }
}

/** A whole number of up to nine digits, also with a minus. */
export function readWhole(text: string): number | undefined {
  const said = text.trim();
  return /^-?\d{1,9}$/.test(said) ? Number(said) : undefined;
}

const timeForm = /^\d{2}:[0-5]\d$/;

/** Whether a value is a time as fields hand it on; what they could not read is handed on as it was typed. */
export const isTime = (value: string) => timeForm.test(value);

/** Whether a value is a date as fields hand it on. */
export const isDate = (value: string) => /^\d{4}-\d{2}-\d{2}$/.test(value);
