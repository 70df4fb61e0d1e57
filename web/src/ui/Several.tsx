import { Listbox, ListboxButton, ListboxOption, ListboxOptions } from "@headlessui/react";
import { Check, ChevronDown } from "lucide-react";
import { useState } from "react";
import { openByEnter, type Option } from "./Choice";
import { inputLook } from "./Field";

type Props<T> = {
  values: T[];
  options: Option<T>[];
  onChange: (values: T[]) => void;
  label: string;
  /** What is said where none is chosen, such as "Any author". */
  any: string;
  /** What several are called, such as "authors". */
  many: string;
  className?: string;
};

/** Any number of named values; none narrows nothing. */
export function Several<T extends string | number>({
  values,
  options,
  onChange,
  label,
  any,
  many,
  className = "",
}: Props<T>) {
  const [own, choose] = useAhead(values, onChange);
  const said = saySeveral(own, options, any, many);
  return (
    <Listbox value={own} onChange={choose} multiple>
      <ListboxButton
        aria-label={`${label}: ${said}`}
        title={own.length > 1 ? namesOf(own, options).join(", ") : undefined}
        onKeyDown={openByEnter}
        className={`${inputLook} flex items-center justify-between gap-2 text-left ${className}`}
      >
        <span className="truncate">{said}</span>
        <ChevronDown size={14} className="shrink-0 text-soft" />
      </ListboxButton>
      <ListboxOptions
        anchor="bottom start"
        className="z-50 max-h-80! min-w-(--button-width) rounded-md border border-strong bg-sheet py-1 shadow-lifted [--anchor-gap:4px]"
      >
        {options.map((o) => (
          <ListboxOption
            key={o.value}
            value={o.value}
            className="group flex h-8 cursor-default items-center gap-2 px-2 text-base data-focus:bg-sunk"
          >
            <span className="grid size-4 place-items-center rounded-sm border border-strong group-data-selected:border-ink group-data-selected:bg-ink group-data-selected:text-ground">
              <Check size={12} className="invisible group-data-selected:visible" aria-hidden />
            </span>
            {o.name}
          </ListboxOption>
        ))}
        {options.length === 0 && <p className="px-2 py-1 text-sm text-soft">There are none yet.</p>}
      </ListboxOptions>
    </Listbox>
  );
}

/**
 * The values as they were chosen last. Where they are kept, such as in the address, they arrive a little later, and
 * who chooses a second one at once would else choose it in place of the first.
 */
function useAhead<T extends string | number>(values: T[], onChange: (values: T[]) => void) {
  const [own, setOwn] = useState(values);
  const [sent, setSent] = useState<string[]>([]);
  const [seen, setSeen] = useState(values.join());
  if (values.join() !== seen) {
    setSeen(values.join());
    const arrived = sent.indexOf(values.join());
    setSent(sent.slice(arrived + 1));
    if (arrived < 0) setOwn(values); // changed elsewhere, such as by going back
  }
  function choose(next: T[]) {
    setOwn(next);
    setSent([...sent, next.join()]);
    onChange(next);
  }
  return [own, choose] as const;
}

/** What the values are called; one that is gone by now is said to be. */
export function namesOf<T>(values: T[], options: Option<T>[]): string[] {
  return values.map((v) => options.find((o) => o.value === v)?.name ?? "one that is gone");
}

/** "Any author", "Pell Hanrahan", "3 authors" */
export function saySeveral<T>(values: T[], options: Option<T>[], any: string, many: string): string {
  if (values.length === 0) return any;
  return values.length === 1 ? namesOf(values, options)[0]! : `${values.length} ${many}`;
}
