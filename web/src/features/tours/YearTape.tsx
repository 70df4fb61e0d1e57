import { memo, useRef, useState, type KeyboardEvent, type PointerEvent } from "react";
import { addDays, dateParts, daysBetween, hhmm } from "../../ui/civil";
import { shownDate, shownPlace, siteToday } from "../../ui/siteClock";
import { instantOf } from "../channels/moment";
import type { Stop } from "./tours";

type Props = {
  stops: Stop[];
  /** How a stop is moved to another date; nothing can be moved without it. */
  onMove: ((stop: number, at: string) => void) | undefined;
};

const margin = 3; // days shown before the first stop and after the last

type Placed = { stop: Stop; date: string; minute: number; gone: boolean; trouble: boolean };

/** The stops of a tour on a tape of the months they take. A stop is moved by dragging it, or with the arrow keys. */
export const YearTape = memo(function YearTape({ stops, onMove }: Props) {
  const tape = useRef<HTMLDivElement>(null);
  const [held, setHeld] = useState<{ stop: number; date: string; from: number; began: string }>();
  const placed: Placed[] = stops.flatMap((stop) =>
    stop.at
      ? [
          {
            stop,
            date: stop.at.date,
            minute: stop.at.minute,
            gone: stop.messages.some((m) => m.state !== "" && m.state !== "planned"),
            trouble: stop.messages.some((m) => m.problem !== "" || m.state === "failed"),
          },
        ]
      : [],
  );
  if (placed.length === 0) return null;
  const dates = placed.map((p) => p.date).sort();
  const from = addDays(dates[0] ?? siteToday(), -margin);
  const days = Math.max(daysBetween(from, dates.at(-1) ?? from) + margin, 28);
  const left = (date: string) => `${(daysBetween(from, date) / days) * 100}%`;
  /** The date of what was lifted, for where the pointer is now: a mere click moves nothing. */
  const draggedTo = (x: number, from: number, began: string) => {
    const width = tape.current?.getBoundingClientRect().width ?? 0;
    return width > 0 ? addDays(began, Math.round(((x - from) / width) * days)) : began;
  };
  const move = (p: Placed, date: string) => {
    const at = instantOf({ date, time: hhmm(p.minute) });
    if (at && date !== p.date) onMove?.(p.stop.n, at);
  };
  const drop = (p: Placed, event: PointerEvent) => {
    if (held) move(p, draggedTo(event.clientX, held.from, held.began));
    setHeld(undefined);
  };
  const press = (p: Placed, event: KeyboardEvent) => {
    const by = { ArrowLeft: -1, ArrowRight: 1, PageUp: -7, PageDown: 7 }[event.key];
    if (event.key === "Escape") setHeld(undefined);
    if (!by || !onMove) return;
    event.preventDefault();
    move(p, addDays(p.date, by));
  };
  return (
    <div
      ref={tape}
      role="group"
      aria-label="The stops over time"
      className="relative h-16 touch-none border-y border-line bg-sheet"
    >
      {months(from, days).map((m) => (
        <span
          key={m.date}
          style={{ left: left(m.date) }}
          className="pointer-events-none absolute inset-y-0 border-l border-line pl-1 text-xs text-faint"
        >
          {m.name}
        </span>
      ))}
      {daysBetween(from, siteToday()) >= 0 && daysBetween(from, siteToday()) <= days && (
        <span
          style={{ left: left(siteToday()) }}
          aria-hidden
          className="absolute inset-y-0 w-0.5 bg-tape"
          title="Today"
        />
      )}
      {placed.map((p) => {
        const movable = onMove && !p.gone;
        const date = held?.stop === p.stop.n ? held.date : p.date;
        return (
          <button
            key={p.stop.n}
            type="button"
            style={{ left: left(date) }}
            title={`Stop ${p.stop.n}, ${shownPlace({ date, minute: p.minute })}`}
            aria-label={`Stop ${p.stop.n}, ${shownPlace({ date, minute: p.minute })}${p.trouble ? ", needs a change" : ""}${p.gone ? ", gone" : ""}`}
            aria-disabled={!movable || undefined}
            onPointerDown={(e) => {
              if (!movable) return;
              e.currentTarget.setPointerCapture(e.pointerId);
              setHeld({ stop: p.stop.n, date: p.date, from: e.clientX, began: p.date });
            }}
            onPointerMove={(e) =>
              held?.stop === p.stop.n &&
              setHeld({ ...held, date: draggedTo(e.clientX, held.from, held.began) })
            }
            onPointerUp={(e) => drop(p, e)}
            onPointerCancel={() => setHeld(undefined)}
            onKeyDown={(e) => press(p, e)}
            className={`absolute top-6 flex h-7 w-6 -translate-x-1/2 items-center justify-center rounded-sm border text-xs tabular-nums focus-visible:z-10 ${look(p)} ${movable ? "cursor-ew-resize" : ""} ${held?.stop === p.stop.n ? "z-10 shadow-lifted" : ""}`}
          >
            {p.stop.n}
          </button>
        );
      })}
      {held && (
        <span className="absolute right-1 bottom-0.5 rounded-sm bg-ink px-1 text-xs text-ground">
          {shownDate(held.date)}
        </span>
      )}
    </div>
  );
});

/** Proposed stops are dashed and chalky, planned ones solid, past ones quiet, troubled ones marked. */
function look(p: Placed): string {
  if (p.trouble) return "border-madder bg-madder-wash text-madder font-semibold";
  if (p.gone) return "border-line bg-sunk text-faint";
  if (p.stop.messages.some((m) => m.state === "planned")) return "border-share bg-sheet text-ink";
  return "border-dashed border-strong bg-chalk-wash text-ink";
}

/** The first days of the months on a stretch of the tape, and its own first day. */
function months(from: string, days: number): { date: string; name: string }[] {
  const found = [];
  const last = addDays(from, days);
  for (let date = from; date <= last; date = firstOf(addDays(firstOf(date), 31)))
    found.push({ date, name: dateParts(date).month });
  // The first label would lie over that of a month that begins at once.
  return found.length > 1 && daysBetween(found[0]?.date ?? from, found[1]?.date ?? from) < 14
    ? found.slice(1)
    : found;
}

const firstOf = (date: string) => `${date.slice(0, 8)}01`;
