import { Checkbox, Field as CheckField, Label } from "@headlessui/react";
import { Check } from "lucide-react";
import { TextField } from "../../ui/Field";
import type { Rhythm } from "./rhythm";

type Props = {
  rhythm: Rhythm;
  problem: (path: string) => string | undefined;
  onChange: (rhythm: Rhythm) => void;
};

/** What holds for the rhythm as a whole: its first and last date, uneven minutes. */
export function CalendarFields({ rhythm, problem, onChange }: Props) {
  return (
    <div className="mb-4 flex flex-wrap items-start gap-4">
      <TextField
        label="First date"
        type="date"
        value={rhythm.starts ?? ""}
        onChange={(e) => onChange(withDate(rhythm, "starts", e.target.value))}
      />
      <TextField
        label="Last date"
        type="date"
        value={rhythm.ends ?? ""}
        error={problem("ends")}
        onChange={(e) => onChange(withDate(rhythm, "ends", e.target.value))}
      />
      <CheckField className="mt-6 flex h-8 items-center gap-2">
        <Checkbox
          checked={rhythm.uneven ?? false}
          onChange={(uneven) => onChange({ ...rhythm, uneven })}
          className="group flex size-4 items-center justify-center rounded-sm border border-strong bg-sheet data-checked:bg-ink"
        >
          <Check size={12} className="invisible text-ground group-data-checked:visible" aria-hidden />
        </Checkbox>
        <Label className="text-sm">Uneven minutes only (never :00, :05, :10 …)</Label>
      </CheckField>
    </div>
  );
}

function withDate(rhythm: Rhythm, name: "starts" | "ends", date: string): Rhythm {
  return { ...rhythm, [name]: date || undefined };
}
