import { Checkbox, Field as CheckField, Label } from "@headlessui/react";
import { Check, X } from "lucide-react";
import { useState } from "react";
import { Button } from "../../ui/Button";
import { shortDate } from "../../ui/civil";
import { TextField } from "../../ui/Field";
import type { Rhythm } from "./rhythm";

type Props = {
  rhythm: Rhythm;
  problem: (path: string) => string | undefined;
  onChange: (rhythm: Rhythm) => void;
};

/** What holds for the rhythm as a whole: its first and last date, rest days, uneven minutes. */
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
      <RestDays days={rhythm.restDays ?? []} onChange={(restDays) => onChange({ ...rhythm, restDays })} />
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

function RestDays({ days, onChange }: { days: string[]; onChange: (days: string[]) => void }) {
  const [date, setDate] = useState("");
  return (
    <div>
      <div className="flex items-end gap-2">
        <TextField label="Rest days" type="date" value={date} onChange={(e) => setDate(e.target.value)} />
        <Button
          disabled={!date || days.includes(date)}
          onClick={() => {
            onChange([...days, date].sort());
            setDate("");
          }}
        >
          Add
        </Button>
      </div>
      {days.length > 0 && (
        <ul aria-label="Rest days" className="mt-1 flex max-w-md flex-wrap gap-1">
          {days.map((d) => (
            <li key={d} className="flex items-center rounded-sm bg-sunk pl-2 text-sm">
              {shortDate(d)} {d.slice(0, 4)}
              <button
                type="button"
                aria-label={`Remove the rest day ${d}`}
                onClick={() => onChange(days.filter((other) => other !== d))}
                className="p-1 text-soft hover:text-ink"
              >
                <X size={12} />
              </button>
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}
