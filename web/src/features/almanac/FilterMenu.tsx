import { Popover, PopoverButton, PopoverPanel } from "@headlessui/react";
import { SlidersHorizontal } from "lucide-react";
import { Button } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { Field } from "../../ui/Field";
import type { Almanac } from "./almanac";
import { kinds, namesIn, noFilter, statuses, type Filter } from "./filter";
import type { LensShown } from "./lenses";
import { Lenses } from "./Lenses";

type Props = {
  site: string;
  plan: Almanac;
  filter: Filter;
  shown: LensShown;
  onChange: (change: Partial<Filter>) => void;
  onLook: (shown: LensShown) => void;
};

/** Which posts the plan shows, and the lenses that keep such a choice under a name. */
export function FilterMenu({ site, plan, filter, shown, onChange, onLook }: Props) {
  const { authors, categories } = namesIn(plan);
  const named = (options: { value: string; name: string }[], value: string) =>
    options.find((o) => o.value === value)?.name;
  const on = [
    filter.author,
    filter.category,
    named(statuses, filter.status),
    named(kinds, filter.kind),
  ].filter(Boolean);
  const any = (name: string, options: { value: string; name: string }[]) => [{ value: "", name }, ...options];
  const options = (name: string, names: string[], chosen: string) =>
    any(
      name,
      [...new Set([...names, ...(chosen ? [chosen] : [])])].map((n) => ({ value: n, name: n })),
    );
  const fields = [
    { key: "author", label: "Author", options: options("Any author", authors, filter.author) },
    { key: "category", label: "Category", options: options("Any category", categories, filter.category) },
    { key: "status", label: "Status", options: any("Any status", statuses) },
    { key: "kind", label: "Kind", options: any("Posts and pages", kinds) },
  ] as const;
  return (
    <Popover className="relative">
      <PopoverButton
        aria-label={on.length > 0 ? `Filter: ${on.join(", ")}` : "Filter and lenses"}
        title={on.length > 0 ? on.join(", ") : "Filter and lenses"}
        className={`inline-flex h-8 items-center gap-1 rounded-md px-2 text-sm data-hover:bg-sunk ${on.length > 0 ? "bg-open text-ink" : "text-soft data-hover:text-ink"}`}
      >
        <SlidersHorizontal size={14} aria-hidden />
        {on.length > 0 && <span className="max-w-28 truncate">{on.join(", ")}</span>}
      </PopoverButton>
      <PopoverPanel className="absolute top-full right-0 z-30 mt-1 w-72 space-y-2 rounded-md border border-strong bg-sheet p-3 shadow-lifted">
        {fields.map(({ key, label, options }) => (
          <Field key={key} label={label}>
            <Choice
              label={label}
              value={filter[key]}
              options={options}
              onChange={(value) => onChange({ [key]: value })}
            />
          </Field>
        ))}
        {on.length > 0 && (
          <Button look="quiet" onClick={() => onChange(noFilter)}>
            Clear filters
          </Button>
        )}
        <Lenses site={site} shown={shown} onLook={onLook} />
      </PopoverPanel>
    </Popover>
  );
}
