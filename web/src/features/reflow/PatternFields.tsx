import { NumberField } from "../../ui/NumberField";
import { Tick } from "../../ui/Tick";
import { TimeField } from "../../ui/TimeField";
import type { Pattern } from "../plan/reflow";

type PatternProps = {
  pattern: Pattern;
  /** What is wrong with a field. */
  wrong: (field: string) => string | undefined;
  onChange: (pattern: Pattern) => void;
};

/** A one-off rhythm for a batch. */
export function PatternFields({ pattern, wrong, onChange }: PatternProps) {
  const set = (change: Partial<Pattern>) => onChange({ ...pattern, ...change });
  return (
    <div className="flex flex-wrap items-start gap-3">
      <div className="w-24">
        <NumberField
          label="Every … days"
          value={pattern.everyDays}
          error={wrong("everyDays")}
          onChange={(everyDays) => set({ everyDays })}
        />
      </div>
      <div className="w-24">
        <NumberField
          label="Posts a day"
          value={pattern.count}
          error={wrong("count")}
          onChange={(count) => set({ count })}
        />
      </div>
      <TimeField
        label="Between"
        value={pattern.from}
        error={wrong("from")}
        onChange={(from) => set({ from })}
      />
      <TimeField label="and" value={pattern.to} error={wrong("to")} onChange={(to) => set({ to })} />
      <div className="w-40">
        <NumberField
          label="Minutes between posts"
          value={pattern.gap}
          error={wrong("gap")}
          onChange={(gap) => set({ gap })}
        />
      </div>
      <div className="pt-6">
        <Tick label="Uneven minutes" on={pattern.uneven ?? false} onChange={(uneven) => set({ uneven })} />
      </div>
    </div>
  );
}
