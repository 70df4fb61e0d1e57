import type { Schemas } from "../../api/client";

type Preview = Schemas["RhythmPreview"];

/** What the resulting times look like: by hour of the day, and by distance from neighbour to neighbour. */
export function Shape({ preview }: { preview: Preview }) {
  return (
    <div className="space-y-5">
      <Histogram
        title="Times of day"
        bars={preview.hours.map((count, hour) => ({
          name: `${String(hour).padStart(2, "0")}:00`,
          count,
          shown: hour % 6 === 0,
        }))}
      />
      <Histogram
        title="From one to the next"
        bars={preview.distances.map((d) => ({ ...d, shown: true }))}
        tilted
      />
    </div>
  );
}

type Bar = { name: string; count: number; shown: boolean };

function Histogram({ title, bars, tilted = false }: { title: string; bars: Bar[]; tilted?: boolean }) {
  const most = Math.max(1, ...bars.map((b) => b.count));
  return (
    <figure>
      <figcaption className="mb-1 text-base font-semibold">{title}</figcaption>
      {tilted ? (
        <ul className="space-y-0.5 text-xs">
          {bars.map((b) => (
            <li key={b.name} className="grid grid-cols-[4.5rem_1fr_1.5rem] items-center gap-2">
              <span className="text-soft">{b.name}</span>
              <span className="h-3 bg-chalk" style={{ width: `${(b.count / most) * 100}%` }} />
              <span className="text-right">{b.count}</span>
            </li>
          ))}
        </ul>
      ) : (
        <ul className="flex h-24 items-end gap-px border-b border-ink">
          {bars.map((b) => (
            <li key={b.name} className="flex h-full flex-1 items-end" title={`${b.name}: ${b.count}`}>
              <span className="w-full bg-chalk" style={{ height: `${(b.count / most) * 100}%` }} />
              <span className="sr-only">{`${b.name}: ${b.count}`}</span>
            </li>
          ))}
        </ul>
      )}
      {!tilted && (
        <p aria-hidden className="flex justify-between text-xs text-soft">
          {["00", "06", "12", "18", "24"].map((h) => (
            <span key={h}>{h}</span>
          ))}
        </p>
      )}
    </figure>
  );
}
