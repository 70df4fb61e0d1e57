import { useRef, type KeyboardEvent, type PointerEvent } from "react";
import { ageScale, daysOf, spanAt, spanWords, type Stretch, type Unit } from "./scale";
import type { RuleLine } from "./upkeep";

/** A line that is being moved: its rule, and the age it is at, in the rule's unit. */
export type MovedLine = { id: number; n: number };

type Props = {
  lines: RuleLine[];
  stretch: Stretch;
  width: number;
  lane: number;
  moved: MovedLine | undefined;
  onMove: (moved: MovedLine) => void;
};

const looks = {
  expire: { line: "border-away", wash: "bg-away", label: "text-away" },
  republish: { line: "border-again", wash: "bg-again", label: "text-again" },
};

/** The ages from which rules catch posts, each a line through its lanes that can be dragged, or moved by keys. */
export function Thresholds({ lines, stretch, width, lane, moved, onMove }: Props) {
  const x = ageScale(stretch, width);
  return (
    <>
      {lines.map((line) => {
        if (!line.hasAge || line.lanes.length === 0) return null;
        const unit = line.age!.unit as Unit;
        const n = moved?.id === line.id ? moved.n : line.age!.n;
        const at = x(moved?.id === line.id ? daysOf(n, unit) : line.days!);
        if (at < 0 || at > width) return null;
        return (
          <Line
            key={line.id}
            line={line}
            n={n}
            at={at}
            lane={lane}
            width={width}
            days={(px) => x.invert(px)}
            changed={moved?.id === line.id && n !== line.age!.n}
            onMove={(n) => onMove({ id: line.id, n })}
          />
        );
      })}
    </>
  );
}

function Line({
  line,
  n,
  at,
  lane,
  width,
  days,
  changed,
  onMove,
}: {
  line: RuleLine;
  n: number;
  at: number;
  lane: number;
  width: number;
  days: (px: number) => number;
  changed: boolean;
  onMove: (n: number) => void;
}) {
  const held = useRef<{ from: number; at: number }>(undefined);
  const look = looks[line.kind];
  const unit = line.age!.unit as Unit;
  const first = line.lanes[0]!;
  const runs = together(line.lanes);
  const off = line.state === "off";
  const drag = {
    onPointerDown: (e: PointerEvent<HTMLElement>) => {
      if (e.button !== 0) return;
      e.preventDefault();
      e.currentTarget.focus();
      held.current = { from: e.clientX, at };
      e.currentTarget.setPointerCapture(e.pointerId);
    },
    onPointerMove: (e: PointerEvent) => {
      if (!held.current) return;
      const to = Math.min(Math.max(held.current.at + e.clientX - held.current.from, 0), width);
      onMove(spanAt(days(to), unit));
    },
    onPointerUp: () => (held.current = undefined),
    onPointerCancel: () => (held.current = undefined),
  };
  const keys = (e: KeyboardEvent) => {
    const by = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1, PageUp: 10, PageDown: -10 }[e.key];
    if (!by) return;
    e.preventDefault();
    onMove(Math.max(1, n + by));
  };
  return (
    <>
      {runs.map(([from, to]) => (
        <div
          key={from}
          aria-hidden
          className="pointer-events-none absolute"
          style={{
            left: line.over ? at : 0,
            right: line.over ? 0 : `calc(100% - ${at}px)`,
            top: from * lane,
            height: (to - from + 1) * lane,
          }}
        >
          <div className={`absolute inset-0 opacity-[0.06] ${look.wash}`} />
          <div
            className={`absolute inset-y-0 ${line.over ? "left-0" : "right-0"} border-l-2 ${look.line} ${changed ? "border-dashed" : off ? "border-dotted" : ""}`}
          />
        </div>
      ))}
      <div
        role="slider"
        tabIndex={0}
        aria-label={`${line.name}: age`}
        aria-valuemin={1}
        aria-valuenow={n}
        aria-valuetext={`${spanWords(n, unit)}${off ? ", turned off" : ""}`}
        aria-orientation="horizontal"
        data-line={line.id}
        {...drag}
        onKeyDown={keys}
        className={`absolute z-10 flex h-6 max-w-60 cursor-ew-resize touch-none items-center gap-1 rounded-sm border bg-sheet px-1.5 text-xs whitespace-nowrap select-none ${look.line} ${changed ? "border-dashed font-semibold" : ""}`}
        style={{
          top: first * lane + 3,
          ...(at > width - 240 ? { right: width - at } : { left: at }),
        }}
      >
        <span aria-hidden className={look.label}>
          {line.kind === "expire" ? "▽" : "↻"}
        </span>
        <span className="truncate">{line.name}</span>
        <span className="shrink-0 text-soft">{spanWords(n, unit)}</span>
      </div>
    </>
  );
}

/** Lanes that lie together, as pairs of the first and the last. */
export function together(lanes: number[]): [number, number][] {
  const runs: [number, number][] = [];
  for (const l of lanes) {
    const last = runs.at(-1);
    if (last && last[1] === l - 1) last[1] = l;
    else runs.push([l, l]);
  }
  return runs;
}
