import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { clock, hourMark } from "../../ui/civil";
import { shownDate } from "../../ui/siteClock";

type Day = Schemas["AlmanacDay"];

const minutes = 24 * 60;
const at = (minute: number) => `${(Math.min(Math.max(minute, 0), minutes) / minutes) * 100}%`;

/** The hours over the tapes of a blog. */
export function TapeHours() {
  return (
    <div aria-hidden className="relative ml-16 h-4 text-xs text-faint">
      {[0, 3, 6, 9, 12, 15, 18, 21].map((h) => (
        <span key={h} className="absolute" style={{ left: at(h * 60) }}>
          {hourMark(h)}
        </span>
      ))}
    </div>
  );
}

type Props = { site: string; day: Day; now: number | undefined };

/** A day of a blog as a tape, for looking: its openings, and what comes out at its minute. */
export function DayTape({ site, day, now }: Props) {
  const entries = [...day.entries].sort((a, b) => a.minute - b.minute);
  return (
    <div className="flex min-h-9 items-stretch border-b border-line text-sm">
      <span className="w-16 shrink-0 self-center text-soft">
        {shownDate(day.date).split(" ").slice(0, 2).join(" ")}
      </span>
      <div className="relative flex-1 overflow-hidden bg-sheet">
        {day.openings.map((o) => (
          <span
            key={`${o.from}-${o.to}`}
            aria-hidden
            className="absolute inset-y-0 bg-open"
            style={{ left: at(o.from), width: `calc(${at(o.to)} - ${at(o.from)})` }}
          />
        ))}
        {now !== undefined && (
          <span aria-hidden data-now className="absolute inset-y-0 w-0.5 bg-tape" style={{ left: at(now) }} />
        )}
        <ul aria-label={`Posts of ${day.date}`}>
          {entries.map((e, i) => {
            const next = entries[i + 1]?.minute ?? minutes;
            return (
              <li
                key={e.id}
                className={`absolute inset-y-1 flex items-center overflow-hidden border-l-2 pl-1 ${e.held ? "border-madder" : e.status === "published" ? "border-strong text-soft" : "border-ink"}`}
                style={{ left: at(e.minute), width: `calc(${at(next)} - ${at(e.minute)})` }}
              >
                <Link
                  to={`/${site}/write/${e.id}`}
                  title={`${clock(e.minute)} ${e.title || "Untitled"}`}
                  className="truncate underline-offset-2 hover:underline"
                >
                  <span className="tabular-nums">{clock(e.minute)}</span> {e.title || "Untitled"}
                </Link>
              </li>
            );
          })}
        </ul>
        {entries.length === 0 && (
          <span className="absolute inset-y-0 left-2 flex items-center text-xs text-faint">
            {day.rest ??
              (day.ghosts.length > 0 ? "nothing scheduled; a draft is proposed" : "nothing scheduled")}
          </span>
        )}
      </div>
    </div>
  );
}
