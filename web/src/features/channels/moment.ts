import { hhmm, minutesOf } from "../../ui/civil";
import { siteNow, siteZone } from "../../ui/siteClock";
import { Temporal } from "../../ui/temporal";
import { isDate, isTime } from "../../ui/typed";

/** A date and a time of the site, as they are typed. */
export type Typed = { date: string; time: string };

/** What an instant is by the site's clocks. */
export function typedOf(at: string): Typed {
  const there = Temporal.Instant.from(at).toZonedDateTimeISO(siteZone());
  return { date: there.toPlainDate().toString(), time: hhmm(there.hour * 60 + there.minute) };
}

/** The next full hour at the site, an hour or more from now. */
export function soon(): Typed {
  const there = siteNow().add({ hours: 1 });
  const next = there.add({ minutes: 60 - there.minute });
  return { date: next.toPlainDate().toString(), time: hhmm(next.hour * 60) };
}

/** The instant of a date and a time at the site; a time that a clock change skips moves forward. */
export function instantOf({ date, time }: Typed): string | undefined {
  if (!isDate(date) || !isTime(time)) return undefined;
  const minute = minutesOf(time);
  return Temporal.PlainDate.from(date)
    .toPlainDateTime({ hour: Math.floor(minute / 60), minute: minute % 60 })
    .toZonedDateTime(siteZone(), { disambiguation: "compatible" })
    .toInstant()
    .toString();
}
