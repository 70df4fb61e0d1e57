import { TriangleAlert } from "lucide-react";
import { memo } from "react";
import { dateParts } from "../../ui/civil";
import { clocksWords, type AlmanacDay } from "../plan/almanac";
import { RowGround } from "../moving/RowGround";
import { labels, share } from "../plan/layout";
import { Mark } from "./Mark";
import { DayMeter } from "./Meters";
import { markKey, marksOf, type Marked } from "../plan/marked";
import type { DeedMark } from "../plan/marks";
import { NowLine } from "./NowLine";
import type { ServerNow } from "../plan/now";
import { dateColumn } from "./Tape";
import { ThinMarks } from "./ThinMarks";

type Props = {
  day: AlmanacDay;
  /** What is drawn in place of what stands on the day. */
  own?: Marked[];
  /** The present moment, on its day. */
  now: ServerNow | undefined;
  deeds: DeedMark[];
  /** The chosen post and deed, if they are of this day. */
  chosen: number | undefined;
  chosenMark: string | undefined;
  picked: ReadonlySet<number>;
  lacks: ReadonlyMap<number, string>;
  /** Minutes of tape in which a label can be read. */
  legible: number;
  /** Whether the hours are wider than the window: the dates then stay in sight. */
  zoomed: boolean;
  onPost: (id: number) => void;
  /** Chooses the day; absent where it is not to be chosen. */
  onDay?: (date: string) => void;
  onMark: (mark: string) => void;
};

/** Of the minutes in which a label can be read: with less it is left out. */
const leastShare = 0.3;

/** One day: its date, its openings as shaded stretches, its posts at their minutes. It is drawn anew only if it changed. */
export const TapeRow = memo(function TapeRow({
  day,
  own,
  now,
  deeds,
  chosen,
  chosenMark,
  picked,
  lacks,
  legible,
  zoomed,
  onPost,
  onDay,
  onMark,
}: Props) {
  const marks = own ?? marksOf(day, lacks);
  const places = labels(
    marks.map((m) => m.minute),
    legible,
  );
  return (
    <li data-day={day.date} className="tape-row flex border-b border-line last:border-b-0">
      <DateButton day={day} isToday={now !== undefined} zoomed={zoomed} onDay={onDay} />
      <div data-tape className="relative mr-2 min-w-0 flex-1">
        <HourLines />
        <div className="relative h-(--row)">
          {day.openings.map((o) => (
            <span
              key={`${o.opening}-${o.from}`}
              data-opening
              aria-hidden
              className="absolute inset-y-1 rounded-sm bg-open"
              style={{ left: share(o.from), width: share(o.to - o.from) }}
            />
          ))}
          {!own &&
            day.free.map((f) => (
              <span
                key={f.at}
                aria-hidden
                title="A free slot"
                className="absolute top-1/2 -mt-1 -ml-1 size-2 rounded-full border border-dashed border-strong bg-sheet"
                style={{ left: share(f.minute) }}
              />
            ))}
          {day.clocks && <Clocks clocks={day.clocks} />}
          {day.rest && <RestWord name={day.rest} />}
          <RowGround date={day.date} />
          {now && <NowLine now={now} />}
          {marks.map((m, i) => (
            <Mark
              key={markKey(m)}
              mark={m}
              label={places[i]!}
              roomy={places[i]!.minutes >= legible * leastShare}
              chosen={m.id === chosen}
              picked={picked.has(m.id)}
              onClick={() => onPost(m.id)}
            />
          ))}
        </div>
        {deeds.length > 0 && (
          <ThinMarks marks={deeds} legible={legible} chosen={chosenMark} onChoose={onMark} />
        )}
      </div>
    </li>
  );
});

/** The hour that a clock change skips, cut out; the one that occurs twice, as two hours over one another. */
function Clocks({ clocks }: { clocks: NonNullable<AlmanacDay["clocks"]> }) {
  const { from, to, back } = clocks;
  const place = { left: share(from), width: share(to - from) };
  return (
    <span
      title={clocksWords(clocks)}
      className={`absolute inset-y-0 border-x border-away ${back ? "flex flex-col" : "missing"}`}
      style={place}
    >
      <span className="sr-only">{clocksWords(clocks)}</span>
      {back && (
        <>
          <span
            aria-hidden
            className="flex-1 border-b border-away text-center text-[0.625rem] leading-4 text-away"
          >
            1
          </span>
          <span aria-hidden className="flex-1 text-center text-[0.625rem] leading-4 text-away">
            2
          </span>
        </>
      )}
    </span>
  );
}

/** Says on the tape that nothing is placed on the day, and why. */
function RestWord({ name }: { name: string }) {
  return (
    <span className="absolute inset-y-1 left-0 flex items-center border-l-2 border-again pl-2 text-xs text-again">
      {name === "Rest day" ? name : `Rest day: ${name}`}
    </span>
  );
}

function DateButton({
  day,
  isToday,
  zoomed,
  onDay,
}: Pick<Props, "day" | "zoomed" | "onDay"> & { isToday: boolean }) {
  const d = dateParts(day.date);
  const name = `${d.weekday} ${d.day} ${d.month} ${day.date.slice(0, 4)}${isToday ? ", today" : ""}${day.short.length ? ", with trouble" : ""}`;
  const look = `${zoomed ? "sticky left-0 z-[12]" : "relative"} flex ${dateColumn} shrink-0 items-center gap-1.5 border-r border-line px-3 text-left ${
    d.weekend ? "bg-ground" : "bg-sheet"
  }`;
  const inner = (
    <>
      <span className="w-7 text-xs text-soft">{d.weekday}</span>{" "}
      <span className={`font-title text-lg ${isToday ? "rounded-sm bg-tape px-1 text-tape-ink" : ""}`}>
        {d.day}
      </span>{" "}
      {d.first && <span className="text-xs text-soft">{d.month}</span>}
    </>
  );
  if (!onDay) return <div className={look}>{inner}</div>;
  return (
    <button
      type="button"
      onClick={() => onDay(day.date)}
      aria-label={name}
      className={`${look} hover:bg-sunk`}
    >
      {inner}
      <span className="ml-auto" />
      <span className="absolute inset-x-3 bottom-1">
        <DayMeter meters={day.meters} />
      </span>
      {day.short.length > 0 && <TriangleAlert size={13} className="text-madder" aria-hidden />}
    </button>
  );
}

/** Thin lines every six hours, so that a time can be read across the rows. */
function HourLines() {
  return [360, 720, 1080].map((m) => (
    <span key={m} aria-hidden className="absolute inset-y-0 w-px bg-line" style={{ left: share(m) }} />
  ));
}
