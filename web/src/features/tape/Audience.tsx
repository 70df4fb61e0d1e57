import { Temporal } from "../../ui/temporal";
import { hourMark, zoneCity } from "../../ui/civil";
import { shownDate } from "../../ui/siteClock";
import { rowMinutes, share } from "../plan/layout";

type Props = { zone: string; audience: string[]; days: { date: string }[]; column: string };

/** The clocks of readers elsewhere, laid under the tape: which hour it is there at each hour of the site. */
export function Audience({ zone, audience, days, column }: Props) {
  const first = days[0]?.date;
  if (!first || audience.length === 0) return null;
  return (
    <div role="group" aria-label="Clocks of readers" className="border-t border-ink">
      {audience.map((there) => {
        const ahead = aheadOn(first, zone, there);
        const change = days.find((d) => aheadOn(d.date, zone, there) !== ahead);
        return (
          <div key={there} className="flex border-b border-line last:border-b-0">
            <div
              className={`${column} sticky left-0 z-[12] shrink-0 truncate border-r border-line bg-sheet px-3 text-xs leading-6 text-soft`}
              title={there}
            >
              {zoneCity(there)}
            </div>
            <div className="relative mr-2 h-6 min-w-0 flex-1 text-xs text-soft">
              <span className="sr-only">{difference(ahead)}</span>
              {marks(ahead).map(({ minute, hour, day }) => (
                <span
                  key={minute}
                  aria-hidden
                  className={`absolute inset-y-0 border-l pl-1 leading-6 whitespace-nowrap ${hour === 0 ? "border-ink font-semibold text-ink" : "border-line"}`}
                  style={{ left: share(minute) }}
                >
                  {hourMark(hour)}
                  {day !== 0 && hour < 3 ? (day > 0 ? " next day" : " day before") : ""}
                </span>
              ))}
              {change && (
                <span className="absolute right-0 bg-sheet pl-2 leading-6 text-away">
                  from {shownDate(change.date)} {difference(aheadOn(change.date, zone, there))}
                </span>
              )}
            </div>
          </div>
        );
      })}
    </div>
  );
}

/** By how many minutes clocks there are ahead of the site's at noon of a date. */
function aheadOn(date: string, zone: string, there: string): number {
  const noon = Temporal.PlainDate.from(date).toZonedDateTime({ timeZone: zone, plainTime: "12:00" });
  return (noon.withTimeZone(there).offsetNanoseconds - noon.offsetNanoseconds) / 60e9;
}

/** Every third whole hour there, at the minute of the site's day where it is. */
function marks(ahead: number) {
  const found: { minute: number; hour: number; day: number }[] = [];
  for (let at = Math.ceil(ahead / 180) * 180; at < ahead + rowMinutes; at += 180)
    found.push({
      minute: at - ahead,
      hour: ((((at / 60) % 24) + 24) % 24) | 0,
      day: Math.floor(at / rowMinutes),
    });
  return found;
}

/** "4 h ahead" */
function difference(ahead: number): string {
  if (ahead === 0) return "the same time";
  const minutes = Math.abs(ahead);
  const hours = `${Math.floor(minutes / 60)} h${minutes % 60 ? ` ${minutes % 60} min` : ""}`;
  return `${hours} ${ahead > 0 ? "ahead" : "behind"}`;
}
