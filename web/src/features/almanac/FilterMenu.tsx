import { Popover, PopoverButton, PopoverPanel } from "@headlessui/react";
import { SlidersHorizontal } from "lucide-react";
import { useState } from "react";
import { Button } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { Field } from "../../ui/Field";
import { writeIds } from "../../ui/ids";
import { namesOf, Several } from "../../ui/Several";
import { usePeople } from "../blog/people";
import { useTopics } from "../blog/topics";
import { useChannels } from "../channels/channels";
import { Lenses } from "../lenses/Lenses";
import type { Lens } from "../lenses/lenses";
import type { Almanac } from "../plan/almanac";
import { kinds, namesIn, statuses, type Filter } from "./filter";
import { asLens, noFilter, shownNow, type Shown } from "./shown";

type Props = {
  site: string;
  plan: Almanac;
  filter: Filter;
  onChange: (change: Shown) => void;
  onLook: (lens: Lens) => void;
};

/** Which posts the plan shows, and the lenses that keep such a choice under a name. */
export function FilterMenu({ site, plan, filter, onChange, onLook }: Props) {
  // The first screen does without them until somebody wants to filter.
  const [wanted, setWanted] = useState(filter.authors.length + filter.categories.length > 0);
  const people = usePeople(site, wanted).data ?? [];
  const topics = useTopics(site, wanted).data?.categories ?? [];
  const channels = useChannels(site, wanted).data?.channels ?? [];
  const { authors, categories } = namesIn(plan, people, topics);
  const named = (options: { value: string; name: string }[], value: string) =>
    options.find((o) => o.value === value)?.name;
  const on = [
    ...namesOf(filter.authors, authors),
    ...namesOf(filter.categories, categories),
    named(statuses, filter.status),
    named(kinds, filter.kind),
    filter.channel,
  ].filter(Boolean);
  return (
    <Popover className="relative">
      <PopoverButton
        onClick={() => setWanted(true)}
        aria-label={on.length > 0 ? `Filter: ${on.join(", ")}` : "Filter and lenses"}
        title={on.length > 0 ? on.join(", ") : "Filter and lenses"}
        className={`inline-flex h-8 items-center gap-1 rounded-md px-2 text-sm data-hover:bg-sunk ${on.length > 0 ? "bg-open text-ink" : "text-soft data-hover:text-ink"}`}
      >
        <SlidersHorizontal size={14} aria-hidden />
        {on.length > 0 && <span className="max-w-28 truncate">{on.join(", ")}</span>}
      </PopoverButton>
      <PopoverPanel className="absolute top-full right-0 z-30 mt-1 w-72 space-y-2 rounded-md border border-strong bg-sheet p-3 shadow-lifted">
        <Field label="Authors">
          <Several
            label="Authors"
            any="Any author"
            many="authors"
            values={filter.authors}
            options={authors}
            onChange={(ids) => onChange({ authors: writeIds(ids) })}
          />
        </Field>
        <Field label="Categories">
          <Several
            label="Categories"
            any="Any category"
            many="categories"
            values={filter.categories}
            options={categories}
            onChange={(ids) => onChange({ categories: writeIds(ids) })}
          />
        </Field>
        <Field label="Status">
          <Choice
            label="Status"
            value={filter.status}
            options={[{ value: "", name: "Any status" }, ...statuses]}
            onChange={(status) => onChange({ status })}
          />
        </Field>
        <Field label="Kind">
          <Choice
            label="Kind"
            value={filter.kind}
            options={[{ value: "", name: "Posts and pages" }, ...kinds]}
            onChange={(kind) => onChange({ kind })}
          />
        </Field>
        {(channels.length > 0 || filter.channel) && (
          <Field label="Channel">
            <Choice
              label="Channel"
              value={filter.channel}
              options={[
                { value: "", name: "Posts, and all outings" },
                ...channels.map((c) => ({ value: c.name, name: `Only outings on ${c.name}` })),
              ]}
              onChange={(channel) => onChange({ channel })}
            />
          </Field>
        )}
        {on.length > 0 && (
          <Button look="quiet" onClick={() => onChange(noFilter)}>
            Clear filters
          </Button>
        )}
        <div className="border-t border-line pt-2">
          <Lenses
            site={site}
            screen="plan"
            shown={() => ({ plan: asLens(shownNow()) })}
            what="A lens saves the view, the span and the filters under a name."
            onLook={onLook}
          />
        </div>
      </PopoverPanel>
    </Popover>
  );
}
