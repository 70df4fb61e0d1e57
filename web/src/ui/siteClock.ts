import { Temporal, type ZonedDateTime } from "./temporal";
import { clock, dateParts, type WeekStart } from "./civil";

// The clock of the site one works on. The browser's own zone plays no part, and its clock only counts on from the
// time that the server told last.
let zone = "UTC";
let ahead = 0; // ms by which the server's clock is ahead of the browser's
let weekStart: WeekStart = "monday";

/** Says whose clock it is. */
export function setSiteZone(name: string) {
  zone = name;
}

/** Sets the clock by what the server has just told: an instant as RFC 3339 has it. */
export function setServerNow(at: string) {
  ahead = Date.parse(at) - Date.now();
}

export function setWeekStart(day: WeekStart) {
  weekStart = day;
}

export const siteZone = () => zone;
export const siteWeekStart = () => weekStart;

/** The time at the site. */
export function siteNow(): ZonedDateTime {
  return Temporal.Instant.fromEpochMilliseconds(Math.round(Date.now() + ahead)).toZonedDateTimeISO(zone);
}

let today = { zone: "", minute: 0, date: "" };

/** Today at the site, as 2026-12-04. It is asked for with every date that is shown, and reckoned once a minute. */
export function siteToday(): string {
  const minute = Math.floor((Date.now() + ahead) / 60_000); // no zone changes its date within a minute
  if (minute !== today.minute || zone !== today.zone)
    today = { zone, minute, date: siteNow().toPlainDate().toString() };
  return today.date;
}

/** Whether a place in the plan is still to come. */
export function isAhead(place: { date: string; minute: number }): boolean {
  const now = siteNow();
  const today = now.toPlainDate().toString();
  return place.date > today || (place.date === today && place.minute > now.hour * 60 + now.minute);
}

/** "Fri 4 Dec", and "Fri 4 Dec 2027" where the year is not this one: a date as it is shown everywhere. */
export function shownDate(date: string): string {
  const p = dateParts(date);
  const year = date.slice(0, 4);
  return `${p.weekday} ${p.day} ${p.month}${year === siteToday().slice(0, 4) ? "" : ` ${year}`}`;
}

/** "Fri 4 Dec, 10:23": an instant by the site's clock. */
export function shownMoment(at: string): string {
  const there = Temporal.Instant.from(at).toZonedDateTimeISO(zone);
  return `${shownDate(there.toPlainDate().toString())}, ${clock(there.hour * 60 + there.minute)}`;
}

/** "Fri 4 Dec, 10:23": a place in the plan. */
export function shownPlace(place: { date: string; minute: number }): string {
  return `${shownDate(place.date)}, ${clock(place.minute)}`;
}

/** The date at the site of an instant, as it is shown. */
export function shownDay(at: string): string {
  return shownDate(Temporal.Instant.from(at).toZonedDateTimeISO(zone).toPlainDate().toString());
}
