import { TriangleAlert } from "lucide-react";
import type { ReactNode } from "react";
import { dateParts, longDate } from "../../ui/civil";
import type { AlmanacDay } from "./almanac";
import { labels, share } from "./layout";
import { Mark, type Marked } from "./Mark";
import { dateColumn } from "./Tape";

type Props = {
  day: AlmanacDay;
  isToday: boolean;
  chosen: number | undefined;
  onPost: (id: number) => void;
  onDay: (date: string) => void;
  children?: ReactNode;
  below?: ReactNode;
};

/** One day: its date, its openings as shaded stretches, its posts at their minutes. */
export function TapeRow({ day, isToday, chosen, onPost, onDay, children, below }: Props) {
  const marks = marksOf(day);
  const places = labels(marks.map((m) => m.minute));
  return (
    <li className="flex border-b border-line last:border-b-0">
      <DateButton day={day} isToday={isToday} onDay={onDay} />
      <div className="relative mr-2 min-w-0 flex-1">
        <HourLines />
        <div className="relative h-10">
          {day.openings.map((o) => (
            <span
              key={`${o.opening}-${o.from}`}
              aria-hidden
              className="absolute inset-y-1 rounded-sm bg-open"
              style={{ left: share(o.from), width: share(o.to - o.from) }}
            />
          ))}
          {day.free.map((f) => (
            <span
              key={f.at}
              aria-hidden
              title="A free slot"
              className="absolute top-1/2 size-2 -translate-1/2 rounded-full border border-dashed border-strong bg-sheet"
              style={{ left: share(f.minute) }}
            />
          ))}
          {children}
          {marks.map((m, i) => (
            <Mark
              key={`${m.kind}-${m.id}`}
              mark={m}
              label={places[i]!}
              chosen={m.id === chosen}
              onClick={() => onPost(m.id)}
            />
          ))}
        </div>
        {below}
      </div>
    </li>
  );
}

function kindOf(e: AlmanacDay["entries"][number]): Marked["kind"] {
  if (e.status === "published") return "out";
  if (e.held) return "held";
  return e.pinned ? "pinned" : "scheduled";
}

function marksOf(day: AlmanacDay): Marked[] {
  const entries = day.entries.map((e) => ({
    id: e.id,
    title: e.title,
    minute: e.minute,
    kind: kindOf(e),
  }));
  const ghosts = day.ghosts.map((g) => ({
    id: g.id,
    title: g.title,
    minute: g.minute,
    kind: "proposed" as const,
  }));
  return [...entries, ...ghosts].sort((a, b) => a.minute - b.minute);
}

function DateButton({ day, isToday, onDay }: Pick<Props, "day" | "isToday" | "onDay">) {
  const d = dateParts(day.date);
  return (
    <button
      type="button"
      onClick={() => onDay(day.date)}
      aria-label={`${longDate(day.date)}${isToday ? ", today" : ""}${day.short.length ? ", with trouble" : ""}`}
      className={`flex ${dateColumn} shrink-0 items-center gap-1.5 border-r border-line px-3 text-left hover:bg-sunk ${
        d.weekend ? "bg-ground" : ""
      }`}
    >
      <span className="w-7 text-xs text-soft">{d.weekday}</span>
      <span className={`font-title text-lg ${isToday ? "rounded-sm bg-tape px-1 text-tape-ink" : ""}`}>
        {d.day}
      </span>
      {d.first && <span className="text-xs text-soft">{d.month}</span>}
      {day.short.length > 0 && <TriangleAlert size={13} className="ml-auto text-madder" aria-hidden />}
    </button>
  );
}

/** Thin lines every six hours, so that a time can be read across the rows. */
function HourLines() {
  return [360, 720, 1080].map((m) => (
    <span key={m} aria-hidden className="absolute inset-y-0 w-px bg-line" style={{ left: share(m) }} />
  ));
}
