import { Combobox, ComboboxInput, ComboboxOption, ComboboxOptions } from "@headlessui/react";
import { X } from "lucide-react";
import { useState } from "react";
import { inputLook } from "../../ui/Field";

type Props = {
  values: string[];
  known: string[];
  /** Whether values that are not known may be written. */
  free: boolean;
  label?: string;
  error?: string | undefined;
  onChange: (values: string[]) => void;
};

const offered = 10;

/** Several values, chosen from what is known or written by hand. */
export function ValuesField({ values, known, free, label = "What with", error, onChange }: Props) {
  const [typed, setTyped] = useState("");
  const wanted = typed.trim();
  const has = (name: string) => values.some((v) => v.toLowerCase() === name.toLowerCase());
  const matching = known
    .filter((k) => !has(k) && k.toLowerCase().includes(wanted.toLowerCase()))
    .slice(0, offered);
  const isNew = free && wanted !== "" && !has(wanted);

  function add(value: string | null) {
    if (value && !has(value)) onChange([...values, value]);
    setTyped("");
  }

  return (
    <div className="min-w-40 flex-1">
      <div
        className={`flex min-h-8 flex-wrap items-center gap-1 rounded-md border bg-sheet px-1 py-0.5 ${error ? "border-madder" : "border-strong"}`}
      >
        {values.map((v) => (
          <span key={v} className="flex items-center rounded-sm bg-sunk pl-1.5 text-sm">
            {v}
            <button
              type="button"
              aria-label={`Remove ${v}`}
              onClick={() => onChange(values.filter((other) => other !== v))}
              className="p-1 text-soft hover:text-ink"
            >
              <X size={12} />
            </button>
          </span>
        ))}
        <Combobox<string | null> value={null} onChange={add} immediate>
          <ComboboxInput
            aria-label={label}
            aria-invalid={Boolean(error)}
            placeholder={values.length === 0 ? (free ? "write one, then Enter" : "choose") : ""}
            className={`${inputLook} h-6! w-24! flex-1 border-0! px-1!`}
            displayValue={() => typed}
            onChange={(e) => setTyped(e.target.value)}
            autoComplete="off"
          />
          <ComboboxOptions
            anchor="bottom start"
            className="z-50 min-w-48 rounded-md border border-strong bg-sheet py-1 shadow-lifted [--anchor-gap:4px] empty:hidden"
          >
            {isNew && (
              <ComboboxOption value={wanted} className="px-2 py-1.5 text-base data-focus:bg-sunk">
                Add “{wanted}”
              </ComboboxOption>
            )}
            {matching.map((k) => (
              <ComboboxOption key={k} value={k} className="px-2 py-1.5 text-base data-focus:bg-sunk">
                {k}
              </ComboboxOption>
            ))}
          </ComboboxOptions>
        </Combobox>
      </div>
      {error && (
        <p role="alert" className="mt-1 text-xs text-madder">
          {error}
        </p>
      )}
    </div>
  );
}
