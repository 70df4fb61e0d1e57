import { Trash2 } from "lucide-react";
import { IconButton } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { NumberField } from "../../ui/NumberField";
import { WeekdayButtons } from "../../ui/WeekdayButtons";
import { asKind, useBeginning, type Opening } from "./rhythm";
import { OpeningMore } from "./OpeningMore";
import { TimeField } from "../../ui/TimeField";

type Props = {
  site: string;
  chosen: boolean;
  opening: Opening;
  problem: (field: string) => string | undefined;
  onChange: (opening: Opening) => void;
  onRemove: () => void;
};

/** A window may run on into the next day: to 48:00, in minutes. */
const pastMidnight = 48 * 60;

const kinds = [
  { value: "window" as const, name: "Within a window" },
  { value: "time" as const, name: "At a time" },
];

/** One line of the rhythm: on these weekdays, at this time or so many times within this window. */
export function OpeningRow({ site, chosen, opening, problem, onChange, onRemove }: Props) {
  const set = (change: Partial<Opening>) => onChange({ ...opening, ...change });
  const begin = useBeginning(site);
  return (
    <li className={`px-3 py-2.5 ${chosen ? "bg-ground" : ""}`}>
      <div className="flex flex-wrap items-start gap-x-4 gap-y-2">
        <WeekdayButtons
          chosen={opening.weekdays}
          error={problem("weekdays")}
          onChange={(days) => set({ weekdays: days })}
        />
        <div className="w-40 shrink-0">
          <Choice
            label="Kind"
            value={opening.kind}
            options={kinds}
            onChange={(kind) => begin && onChange(asKind(opening, kind, begin))}
          />
        </div>
        {opening.kind === "window" ? (
          <div className="flex flex-wrap items-start gap-2">
            <TimeField
              label="From"
              hideLabel
              value={opening.from}
              error={problem("from")}
              onChange={(from) => set({ from })}
            />
            <span className="pt-1.5 text-sm text-soft">to</span>
            <TimeField
              label="To"
              hideLabel
              value={opening.to ?? "24:00"}
              most={pastMidnight}
              error={problem("to")}
              onChange={(to) => set({ to })}
            />
            <NumberField
              label="Posts"
              hideLabel
              className="w-14! text-center"
              value={opening.count ?? 1}
              error={problem("count")}
              onChange={(count) => set({ count })}
            />
            <span className="pt-1.5 text-sm text-soft">{opening.count === 1 ? "post" : "posts"}</span>
          </div>
        ) : (
          <div className="flex flex-wrap items-start gap-2">
            <TimeField
              label="Time"
              hideLabel
              value={opening.from}
              error={problem("from")}
              onChange={(from) => set({ from })}
            />
            <span className="pt-1.5 text-sm text-soft">give or take</span>
            <NumberField
              label="Give or take, in minutes"
              hideLabel
              className="w-14! text-center"
              value={opening.sway ?? 0}
              error={problem("sway")}
              onChange={(sway) => set({ sway })}
            />
            <span className="pt-1.5 text-sm text-soft">min</span>
          </div>
        )}
        <div className="ml-auto">
          <IconButton label="Remove this opening" onClick={onRemove}>
            <Trash2 size={15} />
          </IconButton>
        </div>
      </div>
      <OpeningMore site={site} opening={opening} problem={problem} onChange={set} />
    </li>
  );
}
