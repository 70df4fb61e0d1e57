import { Checkbox, Field, Label } from "@headlessui/react";
import { Check } from "lucide-react";

/** A labelled box to tick; its words tick it, too. */
export function Tick({
  label,
  hideLabel = false,
  on,
  onChange,
}: {
  label: string;
  hideLabel?: boolean;
  on: boolean;
  onChange: (on: boolean) => void;
}) {
  return (
    <Field as="span" className="flex items-center gap-1.5 text-sm">
      <Checkbox
        aria-label={label}
        checked={on}
        onChange={onChange}
        className="flex size-4 shrink-0 items-center justify-center rounded-sm border border-strong bg-sheet data-checked:border-ink data-checked:bg-ink"
      >
        {on && <Check size={12} className="text-ground" />}
      </Checkbox>
      {!hideLabel && <Label className="select-none">{label}</Label>}
    </Field>
  );
}
