import { Combobox, ComboboxInput, ComboboxOption, ComboboxOptions } from "@headlessui/react";
import { X } from "lucide-react";
import { useRef, useState } from "react";
import { Field, inputLook } from "../../ui/Field";

type Props = {
  label?: string;
  tags: string[];
  known: string[];
  error?: string | undefined;
  onChange: (tags: string[]) => void;
};

const offered = 8;

/** The post's tags; those that the site has already are offered while one types. */
export function TagsField({ label = "Tags", tags, known, error, onChange }: Props) {
  const [typed, setTyped] = useState("");
  const key = useRef("");
  const wanted = typed.trim();
  const has = (name: string) => tags.some((t) => t.toLowerCase() === name.toLowerCase());
  const matching = known
    .filter((t) => !has(t) && t.toLowerCase().includes(wanted.toLowerCase()))
    .slice(0, offered);
  const isNew =
    wanted !== "" && !has(wanted) && !matching.some((t) => t.toLowerCase() === wanted.toLowerCase());

  function add(tag: string | null) {
    // Tab takes what is marked in the list; where nothing was written, it only moves on.
    if (tag && (wanted !== "" || key.current !== "Tab")) addAll(tag);
    setTyped("");
  }

  /** Commas part tags: "frost, winter, soil" are three. */
  function addAll(text: string) {
    const fresh: string[] = [];
    for (const tag of text.split(",").map((t) => t.trim()))
      if (tag && !has(tag) && !fresh.some((f) => f.toLowerCase() === tag.toLowerCase())) fresh.push(tag);
    if (fresh.length > 0) onChange([...tags, ...fresh]);
  }

  function type(text: string) {
    const comma = text.lastIndexOf(",");
    if (comma >= 0) addAll(text.slice(0, comma));
    setTyped(text.slice(comma + 1).trimStart());
  }

  return (
    <Field label={label} error={error}>
      {tags.length > 0 && (
        <ul aria-label={label === "Tags" ? "Chosen tags" : label} className="mb-1.5 flex flex-wrap gap-1">
          {tags.map((t) => (
            <li key={t} className="flex items-center rounded-sm bg-sunk pl-2 text-sm">
              {t}
              <button
                type="button"
                aria-label={`Remove the tag ${t}`}
                onClick={() => onChange(tags.filter((other) => other !== t))}
                className="p-1 text-soft hover:text-ink"
              >
                <X size={12} />
              </button>
            </li>
          ))}
        </ul>
      )}
      <Combobox<string | null> value={null} onChange={add} immediate>
        <ComboboxInput
          aria-label="Add a tag"
          placeholder="Add a tag"
          className={inputLook}
          displayValue={() => typed}
          onChange={(e) => type(e.target.value)}
          onKeyDown={(e) => (key.current = e.key)}
          // What was written and left is meant.
          onBlur={() => add(wanted)}
          autoComplete="off"
        />
        <ComboboxOptions
          anchor="bottom start"
          className="z-50 w-(--input-width) rounded-md border border-strong bg-sheet py-1 shadow-lifted [--anchor-gap:4px] empty:hidden"
        >
          {isNew && (
            <ComboboxOption value={wanted} className="px-2 py-1.5 text-base data-focus:bg-sunk">
              Add “{wanted}”
            </ComboboxOption>
          )}
          {matching.map((t) => (
            <ComboboxOption key={t} value={t} className="px-2 py-1.5 text-base data-focus:bg-sunk">
              {t}
            </ComboboxOption>
          ))}
        </ComboboxOptions>
      </Combobox>
    </Field>
  );
}
