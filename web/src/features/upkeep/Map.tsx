import { memo, useCallback, useEffect, useMemo, useRef, useState } from "react";
import { AgeCanvas } from "./AgeCanvas";
import { marksOf } from "./marks";
import { ageScale, shownTicks, type Stretch } from "./scale";
import { Thresholds, type MovedLine } from "./Thresholds";
import type { AgeMap, Group } from "./upkeep";

type Props = {
  map: AgeMap;
  stretch: Stretch;
  shown: Group | undefined;
  chosen: ReadonlySet<number>;
  moved: MovedLine | undefined;
  onChoose: (ids: number[], more: boolean) => void;
  onOpen: (id: number) => void;
  onMove: (moved: MovedLine) => void;
  onZoom: (factor: number, round: number) => void;
};

/** How high a lane is at least and at most, in pixels. */
const lowest = 64;
const highest = 92;

/** Every post a mark, age across, one lane a category, the rules' ages as lines. */
export function Map({ map, stretch, shown, chosen, moved, onChoose, onOpen, onMove, onZoom }: Props) {
  const place = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(0);
  useEffect(() => {
    const el = place.current;
    if (!el) return;
    const sizes = new ResizeObserver(() => setWidth(el.clientWidth));
    sizes.observe(el);
    return () => sizes.disconnect();
  }, []);
  // A lane that no post and no rule is in, of posts without a category, is not shown.
  const lanes = useMemo(() => {
    const used = new Set(map.posts.map((p) => p.lane));
    return map.categories
      .map((name, lane) => ({ name, lane }))
      .filter((l) => l.name !== "" || used.has(l.lane));
  }, [map]);
  const lane = Math.min(highest, Math.max(lowest, Math.floor(470 / Math.max(lanes.length, 1))));
  const height = lane * lanes.length;
  const marks = useMemo(
    () => (width > 0 ? marksOf(map, stretch, width, lane) : []),
    [map, stretch, width, lane],
  );
  const lines = useMemo(
    () => map.lines.map((l) => ({ ...l, lanes: l.lanes.filter((n) => n < lanes.length) })),
    [map, lanes],
  );
  const wheel = useCallback(
    (x: number, factor: number) => onZoom(factor, ageScale(stretch, width).invert(x)),
    [onZoom, stretch, width],
  );
  const ticks = useMemo(() => (width > 0 ? shownTicks(stretch, width) : []), [stretch, width]);
  if (map.posts.length === 0)
    return (
      <p className="rounded-md border border-dashed border-strong px-3 py-8 text-sm text-soft">
        No post is out yet. Once one is, it shows up here by its age.
      </p>
    );
  return (
    <div className="grid grid-cols-[8.5rem_minmax(0,1fr)] max-sm:grid-cols-[5rem_minmax(0,1fr)]">
      <Heads lanes={lanes} lane={lane} ticks={ticks} />
      <div
        ref={place}
        role="group"
        aria-label="Age map. The table shows the same posts."
        className="relative overflow-hidden border-t border-l border-line bg-sheet"
        style={{ height }}
      >
        <Grid lanes={lanes} lane={lane} ticks={ticks} />
        {width > 0 && (
          <>
            <AgeCanvas
              marks={marks}
              width={width}
              height={height}
              shown={shown}
              chosen={chosen}
              onChoose={onChoose}
              onOpen={onOpen}
              onWheel={wheel}
            />
            <Thresholds
              lines={lines}
              stretch={stretch}
              width={width}
              lane={lane}
              moved={moved}
              onMove={onMove}
            />
          </>
        )}
      </div>
    </div>
  );
}

type Ground = { lanes: { name: string; lane: number }[]; lane: number; ticks: ReturnType<typeof shownTicks> };

/** The names of lanes and ages, which stay while a line is moved. */
const Heads = memo(function Heads({ lanes, lane, ticks }: Ground) {
  return (
    <>
      <div />
      <div aria-hidden className="relative h-6 text-xs text-soft">
        <span className="absolute left-0 text-faint">today</span>
        {ticks
          .filter((t) => t.x > 44)
          .map((t) => (
            <span key={t.name} className="absolute -translate-x-1/2 whitespace-nowrap" style={{ left: t.x }}>
              {t.name}
            </span>
          ))}
      </div>
      <div className="border-t border-line">
        {lanes.map((l) => (
          <div
            key={l.lane}
            style={{ height: lane }}
            className="flex items-center border-b border-line pr-2 text-sm leading-tight"
          >
            {l.name || "No category"}
          </div>
        ))}
      </div>
    </>
  );
});

const Grid = memo(function Grid({ lanes, lane, ticks }: Ground) {
  return (
    <>
      {lanes.map((l, i) => (
        <div
          key={l.lane}
          aria-hidden
          className="absolute inset-x-0 border-b border-line"
          style={{ top: i * lane, height: lane }}
        />
      ))}
      {ticks.map((t) => (
        <div
          key={t.name}
          aria-hidden
          className="absolute inset-y-0 border-l border-line"
          style={{ left: t.x }}
        />
      ))}
    </>
  );
});
