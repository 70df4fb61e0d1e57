import { Disclosure, DisclosureButton, DisclosurePanel } from "@headlessui/react";
import { ChevronRight } from "lucide-react";
import { DateField } from "../../ui/DateField";
import { useTopics } from "../blog/topics";
import { NumberField } from "../../ui/NumberField";
import type { Opening } from "./rhythm";
import { ZoneChoice } from "./ZoneChoice";

type Props = {
  site: string;
  opening: Opening;
  problem: (field: string) => string | undefined;
  onChange: (change: Partial<Opening>) => void;
};

/** What an opening may say besides: for which categories, in which weeks, by whose clocks. */
export function OpeningMore({ site, opening, problem, onChange }: Props) {
  const said = [
    opening.lane?.length ? `for ${opening.lane.join(", ")}` : "",
    (opening.everyWeeks ?? 1) > 1 ? `every ${opening.everyWeeks} weeks` : "",
    opening.zone ? `by the clocks of ${opening.zone}` : "",
  ].filter(Boolean);
  return (
    <Disclosure as="div" className="mt-1">
      <DisclosureButton className="group flex items-center gap-1 text-xs text-soft hover:text-ink">
        <ChevronRight size={12} className="group-data-open:rotate-90" aria-hidden />
        {said.length > 0 ? said.join("; ") : "For all categories, every week"}
      </DisclosureButton>
      <DisclosurePanel className="mt-2 flex flex-wrap items-start gap-5 pb-1 pl-4">
        <Lane site={site} lane={opening.lane ?? []} onChange={(lane) => onChange({ lane })} />
        <div className="w-28">
          <NumberField
            label="Every … weeks"
            value={opening.everyWeeks ?? 1}
            error={problem("everyWeeks")}
            onChange={(everyWeeks) => onChange({ everyWeeks })}
          />
        </div>
        {(opening.everyWeeks ?? 1) > 1 && (
          <DateField
            label="Counted from the week of"
            optional
            placeholder="any"
            value={opening.anchor ?? ""}
            error={problem("anchor")}
            onChange={(anchor) => onChange({ anchor: anchor || undefined })}
          />
        )}
        <div className="w-52">
          <ZoneChoice zone={opening.zone} onChange={(zone) => onChange({ zone })} />
        </div>
      </DisclosurePanel>
    </Disclosure>
  );
}

function Lane({
  site,
  lane,
  onChange,
}: {
  site: string;
  lane: string[];
  onChange: (lane: string[]) => void;
}) {
  const topics = useTopics(site);
  return (
    <fieldset>
      <legend className="mb-1 text-sm text-soft">Lane: only for</legend>
      <div className="flex max-w-md flex-wrap gap-1">
        {(topics.data?.categories ?? []).map(({ id, name }) => {
          const on = lane.includes(name);
          return (
            <button
              key={id}
              type="button"
              aria-pressed={on}
              onClick={() => onChange(on ? lane.filter((l) => l !== name) : [...lane, name])}
              className={`h-7 rounded-md border px-2 text-sm ${on ? "border-ink bg-ink text-ground" : "border-strong text-soft hover:text-ink"}`}
            >
              {name}
            </button>
          );
        })}
      </div>
    </fieldset>
  );
}
