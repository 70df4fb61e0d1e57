import { memo } from "react";
import { DateField } from "../../ui/DateField";
import { NumberField } from "../../ui/NumberField";
import { TimeField } from "../../ui/TimeField";
import { WeekdayButtons } from "../../ui/WeekdayButtons";
import { ZoneChoice } from "../rhythm/ZoneChoice";
import type { Change, Shape } from "./tours";

type Props = {
  shape: Shape;
  problem: (path: string) => string | undefined;
  onChange: Change;
};

const most = 2;

/** When the stops are: from when on, for how long, how many, how they thin out, on which days and at which hours. */
export const ShapeFields = memo(function ShapeFields({ shape, problem, onChange: changed }: Props) {
  const onChange = (change: Partial<Shape>) => changed((s) => ({ shape: { ...s.shape, ...change } }));
  return (
    <div className="space-y-3">
      <div className="grid grid-cols-2 gap-2">
        <DateField
          label="First stop"
          value={shape.start}
          error={problem("shape.start")}
          onChange={(start) => onChange({ start })}
        />
        <NumberField
          label="Days"
          value={shape.days}
          error={problem("shape.days")}
          onChange={(days) => onChange({ days })}
        />
        <NumberField
          label="Stops"
          value={shape.stops}
          error={problem("shape.stops")}
          onChange={(stops) => onChange({ stops })}
        />
      </div>
      <label className="block text-sm text-soft">
        Spacing
        <input
          type="range"
          min={1}
          max={most}
          step={0.01}
          value={shape.thinning}
          aria-valuetext={spacing(shape.thinning)}
          onChange={(e) => onChange({ thinning: Number(e.target.value) })}
          className="mt-1 block w-full accent-ink"
        />
        <span className="text-xs text-faint">{spacing(shape.thinning)}</span>
      </label>
      <div>
        <p className="mb-1 text-sm text-soft">On</p>
        <WeekdayButtons
          chosen={shape.weekdays ?? []}
          error={problem("shape.weekdays")}
          onChange={(weekdays) => onChange({ weekdays })}
        />
      </div>
      <div className="flex items-start gap-2">
        <TimeField
          label="Between"
          value={shape.from}
          error={problem("shape.from")}
          onChange={(from) => onChange({ from })}
        />
        <TimeField label="and" value={shape.to} onChange={(to) => onChange({ to })} />
      </div>
      <ZoneChoice zone={shape.zone} onChange={(zone) => onChange({ zone })} />
    </div>
  );
});

function spacing(thinning: number): string {
  if (thinning === 1) return "Even: all pauses are as long as one another.";
  return `Thinning out: each pause is ${Math.round((thinning - 1) * 100)} % longer than the one before.`;
}
