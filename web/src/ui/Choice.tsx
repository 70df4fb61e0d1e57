import { Listbox, ListboxButton, ListboxOption, ListboxOptions } from "@headlessui/react";
import { Check, ChevronDown } from "lucide-react";
import type { KeyboardEvent } from "react";
import { inputLook } from "./Field";

export type Option<T> = { value: T; name: string };

type Props<T> = {
  value: T;
  options: Option<T>[];
  onChange: (value: T) => void;
  label: string;
  className?: string;
};

/** One of several named values. */
export function Choice<T extends string | number>({
  value,
  options,
  onChange,
  label,
  className = "",
}: Props<T>) {
  const chosen = options.find((o) => o.value === value);
  return (
    <Listbox value={value} onChange={onChange}>
      <ListboxButton
        aria-label={`${label}: ${chosen?.name ?? "none"}`}
        onKeyDown={openByEnter}
        className={`${inputLook} flex items-center justify-between gap-2 text-left ${className}`}
      >
        <span className="truncate">{chosen?.name ?? "None"}</span>
        <ChevronDown size={14} className="shrink-0 text-soft" />
      </ListboxButton>
      <ListboxOptions
        anchor="bottom start"
        className="z-50 min-w-(--button-width) rounded-md border border-strong bg-sheet py-1 shadow-lifted [--anchor-gap:4px]"
      >
        {options.map((o) => (
          <ListboxOption
            key={o.value}
            value={o.value}
            className="flex h-8 cursor-default items-center gap-2 px-2 text-base data-focus:bg-sunk"
          >
            <Check size={14} className={o.value === value ? "" : "invisible"} />
            {o.name}
          </ListboxOption>
        ))}
      </ListboxOptions>
    </Listbox>
  );
}

/** Enter opens the choice, as a click does; by itself it would send the form that the choice is in. */
export function openByEnter(event: KeyboardEvent<HTMLButtonElement>) {
  if (event.key !== "Enter") return;
  event.preventDefault();
  event.currentTarget.dispatchEvent(new KeyboardEvent("keydown", { key: "ArrowDown", bubbles: true }));
}
