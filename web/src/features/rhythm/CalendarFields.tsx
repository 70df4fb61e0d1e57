import { Checkbox, Field as CheckField, Label } from "@headlessui/react";
import { Check } from "lucide-react";
import { DateField } from "../../ui/DateField";
import type { Rhythm } from "./rhythm";

type Props = {
  rhythm: Rhythm;
  problem: (path: string) => string | undefined;
  set: (change: Partial<Rhythm>) => void;
};

/** What holds for the rhythm as a whole: its first and last date, uneven minutes. */
export function CalendarFields({ rhythm, problem, set }: Props) {
  return (
    <div className="mb-4 flex flex-wrap items-start gap-4">
      <DateField
        label="First date"
        optional
        placeholder="any"
        value={rhythm.starts ?? ""}
        error={problem("starts")}
        onChange={(date) => set({ starts: date || undefined })}
      />
      <DateField
        label="Last date"
        optional
        placeholder="none"
        value={rhythm.ends ?? ""}
        error={problem("ends")}
        onChange={(date) => set({ ends: date || undefined })}
      />
      <CheckField className="mt-6 flex h-8 items-center gap-2">
        <Checkbox
          checked={rhythm.uneven ?? false}
          onChange={(uneven) => set({ uneven })}
          className="group flex size-4 items-center justify-center rounded-sm border border-strong bg-sheet data-checked:bg-ink"
        >
          <Check size={12} className="invisible text-ground group-data-checked:visible" aria-hidden />
        </Checkbox>
        <Label className="text-sm">Uneven minutes only (never :00, :05, :10 …)</Label>
      </CheckField>
    </div>
  );
}
