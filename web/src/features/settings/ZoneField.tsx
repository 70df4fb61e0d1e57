import { Combobox, ComboboxInput, ComboboxOption, ComboboxOptions } from "@headlessui/react";
import { useState } from "react";
import { Temporal } from "../../ui/temporal";
import { Field, inputLook } from "../../ui/Field";

const offered = 12;

/** A zone, searched for by any part of its name; each is offered with the time it is there. */
type Props = {
  label?: string;
  hint?: string;
  value: string;
  error: string | undefined;
  now: number;
  /** Whether the time there is shown beside the hint. */
  shown?: boolean;
  onChange: (zone: string) => void;
};

export function ZoneField({ label = "Time zone", hint, value, error, now, shown = false, onChange }: Props) {
  const [typed, setTyped] = useState("");
  const words = typed
    .toLowerCase()
    .split(/[\s/_]+/)
    .filter(Boolean);
  const zones = Intl.supportedValuesOf("timeZone")
    .filter((z) => words.every((w) => z.toLowerCase().includes(w)))
    .slice(0, offered);
  return (
    <Field
      label={label}
      error={error}
      hint={
        hint !== undefined
          ? `${shown ? `It is ${timeIn(value, now)} there. ` : ""}${hint}`
          : `It is ${timeIn(value, now)} there. If you change it, you choose what happens to scheduled posts.`
      }
    >
      <Combobox<string>
        value={value}
        onChange={(z) => z && onChange(z)}
        onClose={() => setTyped("")}
        immediate
      >
        <ComboboxInput
          className={inputLook}
          displayValue={(z: string) => z}
          onChange={(e) => setTyped(e.target.value)}
          autoComplete="off"
        />
        <ComboboxOptions
          anchor="bottom start"
          className="z-50 w-(--input-width) rounded-md border border-strong bg-sheet py-1 shadow-lifted [--anchor-gap:4px] empty:hidden"
        >
          {zones.map((z) => (
            <ComboboxOption
              key={z}
              value={z}
              className="flex h-8 items-center justify-between px-2 text-base data-focus:bg-sunk"
            >
              {z.replaceAll("_", " ")}
              <span className="text-sm text-soft">{timeIn(z, now)}</span>
            </ComboboxOption>
          ))}
        </ComboboxOptions>
      </Combobox>
    </Field>
  );
}

/** The time in a zone at a moment by the server's clock, in milliseconds since 1970. */
function timeIn(zone: string, now: number): string {
  try {
    const there = Temporal.Instant.fromEpochMilliseconds(now).toZonedDateTimeISO(zone);
    return there.toPlainTime().toString({ smallestUnit: "minute" });
  } catch {
    return "–";
  }
}
