import type { AlmanacDay } from "../plan/almanac";

type Meter = AlmanacDay["meters"][number];

/** How far the caps are used on a day and in its week, each as a measure that fills. */
export function Meters({ meters }: { meters: Meter[] }) {
  if (meters.length === 0) return null;
  return (
    <section>
      <h3 className="mb-1 text-sm font-semibold">Caps</h3>
      <ul className="space-y-1.5">
        {meters.map((m) => (
          <li key={`${m.of} ${m.name ?? ""}`} className="text-xs">
            <span className="flex justify-between gap-2">
              <span className="truncate text-soft">{nameOf(m)}</span>
              <span className={m.full ? "font-semibold text-away" : ""}>{valueOf(m)}</span>
            </span>
            {m.of !== "category" && <Measure count={m.count} most={m.most} full={m.full} />}
          </li>
        ))}
      </ul>
    </section>
  );
}

function nameOf(m: Meter): string {
  switch (m.of) {
    case "day":
      return "Posts on this day";
    case "author day":
      return `${m.name} on this day`;
    case "author week":
      return `${m.name} in this week`;
    case "category":
      return `${m.name}: to the nearest`;
  }
}

function valueOf(m: Meter): string {
  if (m.of !== "category") return `${m.count} of ${m.most}${m.full ? ", full" : ""}`;
  return `${m.count === 1 ? "1 day" : `${m.count} days`}, needs ${m.most}`;
}

/** A measure with as many parts as the cap allows, filled as far as it is used. */
function Measure({ count, most, full }: { count: number; most: number; full: boolean }) {
  return (
    <span aria-hidden className="mt-0.5 flex h-1 gap-px">
      {Array.from({ length: Math.min(most, 24) }, (_, i) => (
        <span key={i} className={`flex-1 ${i < count ? (full ? "bg-away" : "bg-ink") : "bg-sunk"}`} />
      ))}
    </span>
  );
}

/** The day's own cap, as a small measure at the foot of its date. */
export function DayMeter({ meters }: { meters: Meter[] }) {
  const day = meters.find((m) => m.of === "day");
  if (!day) return null;
  const words = `${day.count} of ${day.most} posts${day.full ? ": full" : ""}`;
  return (
    <span title={words} className="block w-full">
      <span className="sr-only">{words}</span>
      <Measure count={day.count} most={day.most} full={day.full} />
    </span>
  );
}
