import { AddButton } from "../../ui/AddButton";
import { Choice } from "../../ui/Choice";
import { NumberField } from "../../ui/NumberField";
import { TimeField } from "../../ui/TimeField";
import { Warning } from "../../ui/Trouble";
import { WeekdayButtons } from "../../ui/WeekdayButtons";
import { OpeningRow } from "../rhythm/OpeningRow";
import { newOpening, useBeginning } from "../rhythm/rhythm";
import type { Cadence, Kind } from "./rules";

type Props = {
  site: string;
  kind: Kind;
  cadence: Cadence;
  problem: (field: string) => string | undefined;
  onChange: (cadence: Cadence) => void;
};

const unitNames = { minutes: "minutes", hours: "hours", days: "days", weeks: "weeks" } as const;

/** How often the rule has its turn. */
export function CadenceFields({ site, kind, cadence, problem, onChange }: Props) {
  const set = (change: Partial<Cadence>) => onChange({ ...cadence, ...change });
  const begin = useBeginning(site);
  const ways =
    kind === "expire"
      ? [
          { value: "every" as const, name: "At regular intervals" },
          { value: "hand" as const, name: "By hand only" },
        ]
      : [
          { value: "every" as const, name: "At regular intervals" },
          { value: "openings" as const, name: "By openings" },
        ];
  const units = (["minutes", "hours", "days", "weeks"] as const).filter(
    (u) => kind !== "expire" || u !== "minutes",
  );
  const dated = cadence.unit === "days" || cadence.unit === "weeks";
  const openings = cadence.openings ?? [];
  return (
    <div className="space-y-2">
      <div className="flex flex-wrap items-start gap-2">
        <div className="w-48">
          <Choice label="How often" value={cadence.by} options={ways} onChange={(by) => set({ by })} />
        </div>
        {cadence.by === "every" && (
          <>
            <span className="pt-1.5 text-sm text-soft">every</span>
            <NumberField
              label="Every how many"
              hideLabel
              className="w-16! text-center"
              value={cadence.n ?? 1}
              error={problem("n")}
              onChange={(n) => set({ n })}
            />
            <div className="w-28">
              <Choice
                label="Unit"
                value={cadence.unit ?? "days"}
                options={units.map((value) => ({ value, name: unitNames[value] }))}
                onChange={(unit) => set({ unit, sway: 0 })}
              />
            </div>
            {cadence.unit === "weeks" && (
              <WeekdayButtons
                chosen={cadence.weekdays ?? []}
                error={problem("weekdays")}
                onChange={(weekdays) => set({ weekdays })}
              />
            )}
            {dated && (
              <>
                <span className="pt-1.5 text-sm text-soft">at</span>
                <TimeField
                  label="Time of day"
                  hideLabel
                  value={cadence.at ?? "12:00"}
                  error={problem("at")}
                  onChange={(at) => set({ at })}
                />
              </>
            )}
            <span className="pt-1.5 text-sm text-soft">give or take</span>
            <NumberField
              label="Give or take, in minutes"
              hideLabel
              className="w-16! text-center"
              value={cadence.sway ?? 0}
              error={problem("sway")}
              onChange={(sway) => set({ sway })}
            />
            <span className="pt-1.5 text-sm text-soft">min</span>
          </>
        )}
      </div>
      {problem("by") && <Warning>{problem("by")}</Warning>}
      {cadence.by === "openings" && (
        <div>
          {problem("openings") && <Warning>{problem("openings")}</Warning>}
          <ul className="divide-y divide-line rounded-md border border-line bg-sheet">
            {openings.map((o, i) => (
              <OpeningRow
                key={o.key}
                site={site}
                chosen={false}
                opening={o}
                problem={(field) => problem(`openings[${i}].${field}`)}
                onChange={(next) => set({ openings: openings.map((other, j) => (j === i ? next : other)) })}
                onRemove={() => set({ openings: openings.filter((_, j) => j !== i) })}
              />
            ))}
          </ul>
          <AddButton
            className="mt-2"
            disabled={!begin}
            onAdd={() => begin && set({ openings: [...openings, newOpening(begin)] })}
          >
            Add an opening
          </AddButton>
        </div>
      )}
    </div>
  );
}
