import { useRef, useState, type KeyboardEvent, type PointerEvent } from "react";
import { clock } from "../../ui/civil";
import { rowMinutes, share } from "../plan/layout";
import { dateColumn, TapeHead } from "../tape/Tape";
import { drawable, moved, reach, spoken, step, type Part } from "./move";
import { weekdays } from "../../ui/WeekdayButtons";
import type { Opening } from "./rhythm";

type Props = {
  openings: Opening[];
  chosen: string | undefined;
  troubled: (index: number) => boolean;
  onChoose: (key: string) => void;
  onChange: (index: number, change: Partial<Opening>) => void;
  onAdd: (weekday: Opening["weekdays"][number], from: number) => void;
};

/**
 * The week as seven tapes. Openings are dragged along them, by their middle or their ends; with the keyboard, arrows
 * move an opening and Shift with arrows its end. A double click on an empty place adds one.
 */
export function WeekTapes({ openings, chosen, troubled, onChoose, onChange, onAdd }: Props) {
  return (
    <div className="rounded-md border border-line bg-sheet">
      <TapeHead />
      <ol>
        {weekdays.map((day, d) => (
          <li key={day} className="flex border-b border-line last:border-b-0">
            <p
              className={`flex ${dateColumn} shrink-0 items-center border-r border-line px-3 text-sm capitalize`}
            >
              {day}
            </p>
            <div
              className="relative mr-2 h-9 min-w-0 flex-1 touch-none"
              data-tape
              onDoubleClick={(e) => {
                if (e.target !== e.currentTarget) return;
                const box = e.currentTarget.getBoundingClientRect();
                onAdd(day, Math.floor((((e.clientX - box.left) / box.width) * rowMinutes) / 60) * 60);
              }}
            >
              <Spill openings={openings} yesterday={weekdays[(d + 6) % 7]!} />
              {openings.map(
                (o, i) =>
                  o.weekdays.includes(day) &&
                  drawable(o) && (
                    <Block
                      key={o.key}
                      opening={o}
                      chosen={o.key === chosen}
                      troubled={troubled(i)}
                      onChoose={() => onChoose(o.key)}
                      onChange={(change) => onChange(i, change)}
                    />
                  ),
              )}
            </div>
          </li>
        ))}
      </ol>
    </div>
  );
}

/** The parts of yesterday's windows that run past midnight. */
function Spill({ openings, yesterday }: { openings: Opening[]; yesterday: string }) {
  return openings.map((o) => {
    if (!drawable(o)) return null;
    const { to } = reach(o);
    if (!o.weekdays.some((d) => d === yesterday) || to <= rowMinutes) return null;
    return (
      <span
        key={o.key}
        aria-hidden
        className="pointer-events-none absolute inset-y-1.5 left-0 rounded-r-sm bg-open opacity-70"
        style={{ width: share(Math.min(to - rowMinutes, rowMinutes)) }}
      />
    );
  });
}

type BlockProps = {
  opening: Opening;
  chosen: boolean;
  troubled: boolean;
  onChoose: () => void;
  onChange: (change: Partial<Opening>) => void;
};

type Drag = { part: Part; x: number; width: number; start: Opening };

/** How near to an end a press takes hold of the end, in pixels. */
const grip = 8;

function Block({ opening, chosen, troubled, onChoose, onChange }: BlockProps) {
  const drag = useRef<Drag | null>(null);
  const [dragging, setDragging] = useState(false);
  const { from, to } = reach(opening);
  const left = Math.max(from, 0);

  function press(e: PointerEvent<HTMLButtonElement>) {
    const tape = e.currentTarget.closest("[data-tape]");
    if (!tape || e.button !== 0) return;
    const box = e.currentTarget.getBoundingClientRect();
    const narrow = box.width < 3 * grip;
    const part =
      !narrow && e.clientX - box.left < grip
        ? "from"
        : !narrow && box.right - e.clientX < grip
          ? "to"
          : "all";
    drag.current = { part, x: e.clientX, width: tape.clientWidth, start: opening };
    e.currentTarget.setPointerCapture(e.pointerId);
    setDragging(true);
    onChoose();
  }

  function drawTo(e: PointerEvent) {
    const d = drag.current;
    if (!d) return;
    const by = Math.round((((e.clientX - d.x) / d.width) * rowMinutes) / step) * step;
    onChange(moved(d.start, d.part, by));
  }

  function letGo() {
    drag.current = null;
    setDragging(false);
  }

  function onKey(e: KeyboardEvent) {
    if (e.key === "Escape" && drag.current) {
      const { from, to, sway } = drag.current.start;
      onChange({ from, to, sway });
      letGo();
    } else if (e.key === "ArrowLeft" || e.key === "ArrowRight") {
      e.preventDefault();
      onChange(moved(opening, e.shiftKey ? "to" : "all", e.key === "ArrowLeft" ? -step : step));
    }
  }

  const look = troubled ? "border-madder bg-madder-wash text-madder" : "border-strong bg-open text-ink";
  return (
    <button
      type="button"
      aria-label={`${spoken(opening)}. Arrows move it, Shift with arrows its end.`}
      aria-pressed={chosen}
      onFocus={onChoose}
      onPointerDown={press}
      onPointerMove={drawTo}
      onPointerUp={letGo}
      onPointerCancel={letGo}
      onKeyDown={onKey}
      className={`absolute inset-y-1 flex min-w-2 cursor-ew-resize items-center overflow-visible rounded-sm border text-xs whitespace-nowrap ${look} ${
        chosen ? "ring-2 ring-ink" : ""
      }`}
      style={{ left: share(left), width: share(Math.min(to, rowMinutes) - left) }}
    >
      <span className="pointer-events-none px-1">
        {dragging
          ? `${clock(Math.max(from, 0))}–${clock(to)}`
          : opening.kind === "window"
            ? `${opening.count}×`
            : ""}
      </span>
    </button>
  );
}
