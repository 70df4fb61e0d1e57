import { clock, dateParts, longDate } from "../../ui/civil";
import { labels, share } from "../plan/layout";
import { dateColumn, TapeHead } from "../tape/Tape";
import type { RhythmDay } from "./rhythm";

/** The slots of the coming four weeks, as the form stands. */
export function ComingWeeks({ days, troubled }: { days: RhythmDay[]; troubled: boolean }) {
  const short = days.flatMap((d) => d.short);
  return (
    <section aria-labelledby="coming-weeks">
      <h2 id="coming-weeks" className="mb-1 text-base font-semibold">
        The coming four weeks
        {!troubled && (
          <span className="ml-3 text-sm font-normal text-soft">
            dashed: free slots; solid: posts that are planned already and stay
          </span>
        )}
      </h2>
      {troubled ? (
        <p className="text-sm text-soft">Fix what is marked above to see the weeks here.</p>
      ) : (
        <div className="rounded-md border border-line bg-sheet">
          <TapeHead />
          <ol>
            {days.map((day) => (
              <DayRow key={day.date} day={day} />
            ))}
          </ol>
        </div>
      )}
      {short.length > 0 && (
        <ul className="mt-2 space-y-1 text-sm text-madder">
          {short.map((s) => (
            <li key={s}>{s}</li>
          ))}
        </ul>
      )}
    </section>
  );
}

function DayRow({ day }: { day: RhythmDay }) {
  const d = dateParts(day.date);
  const times = [
    ...day.slots.map((s) => ({ ...s, taken: false })),
    ...day.taken.map((s) => ({ ...s, taken: true })),
  ].sort((a, b) => a.minute - b.minute);
  const places = labels(times.map((s) => s.minute));
  return (
    <li
      className={`flex border-b last:border-b-0 ${d.weekday === "Sun" ? "border-strong" : "border-line"}`}
      aria-label={longDate(day.date)}
    >
      <p
        className={`flex ${dateColumn} shrink-0 items-center gap-1.5 border-r border-line px-3 ${d.weekend ? "bg-ground" : ""}`}
      >
        <span className="w-7 text-xs text-soft">{d.weekday}</span>
        <span className="font-title text-base">{d.day}</span>
        {d.first && <span className="text-xs text-soft">{d.month}</span>}
      </p>
      <div className="relative mr-2 h-6 min-w-0 flex-1">
        {day.openings.map((o) => (
          <span
            key={`${o.opening}-${o.from}`}
            aria-hidden
            className="absolute inset-y-0.5 rounded-sm bg-open"
            style={{ left: share(o.from), width: share(o.to - o.from) }}
          />
        ))}
        {times.map((s, i) => (
          <TimeMark key={s.at} {...s} after={places[i]!.side === "after"} />
        ))}
      </div>
    </li>
  );
}

/** A free slot in chalk, or the time of a post that is in the plan already in ink. */
function TimeMark({ minute, taken, after }: { minute: number; taken: boolean; after: boolean }) {
  const look = taken ? "border-solid border-ink text-ink" : "border-dashed border-chalk text-chalk";
  return (
    <span
      className={`absolute inset-y-0.5 flex items-center text-xs ${look} ${after ? "border-l-2 pl-1.5" : "border-r-2 pr-1.5"}`}
      style={after ? { left: share(minute) } : { right: share(1440 - minute) }}
    >
      {clock(minute)}
      <span className="sr-only">{taken ? ", a post that is planned already" : ", a free slot"}</span>
    </span>
  );
}
