import { useState } from "react";
import { AddButton } from "../../ui/AddButton";
import { hhmm } from "../../ui/civil";
import { Warning } from "../../ui/Trouble";
import { OpeningRow } from "./OpeningRow";
import { newOpening, useBeginning, type Opening } from "./rhythm";
import { WeekTapes } from "./WeekTapes";

const fields = ["weekdays", "from", "to", "count", "sway", "everyWeeks", "anchor", "zone", "lane"];

type Props = {
  site: string;
  openings: Opening[];
  /** What is wrong at a path, where it is time to say so. */
  problem: (path: string) => string | undefined;
  onChange: (openings: Opening[]) => void;
};

/** The openings of a rhythm or a season, on the tapes of a week and one by one. */
export function Openings({ site, openings, problem, onChange }: Props) {
  const [chosen, setChosen] = useState<string>();
  const begin = useBeginning(site);
  const set = (i: number, opening: Opening | undefined) =>
    onChange(openings.flatMap((o, j) => (j !== i ? [o] : opening ? [opening] : [])));
  return (
    <section aria-labelledby="openings" className="mb-6">
      <h2 id="openings" className="mb-1 text-base font-semibold">
        Openings
        <span className="ml-3 text-sm font-normal text-soft">
          drag one, or its ends; double-click an empty place for a new one
        </span>
      </h2>
      {problem("openings") && <Warning>{problem("openings")}</Warning>}
      <div className="mb-3">
        <WeekTapes
          openings={openings}
          chosen={chosen}
          troubled={(i) => fields.some((field) => problem(`openings[${i}].${field}`))}
          onChoose={setChosen}
          onChange={(i, change) => set(i, { ...openings[i]!, ...change })}
          onAdd={(weekday, from) => {
            if (!begin) return;
            const added = {
              ...newOpening(begin),
              weekdays: [weekday],
              from: hhmm(from),
              to: hhmm(from + 120),
            };
            onChange([...openings, added]);
            setChosen(added.key);
          }}
        />
      </div>
      {openings.length === 0 ? (
        <p className="rounded-md border border-dashed border-strong px-3 py-4 text-sm text-soft">
          No openings yet, so there are no slots. Add one, and choose its weekdays and its time.
        </p>
      ) : (
        <ul className="divide-y divide-line rounded-md border border-line bg-sheet">
          {openings.map((o, i) => (
            <OpeningRow
              key={o.key}
              site={site}
              chosen={o.key === chosen}
              opening={o}
              problem={(field) => problem(`openings[${i}].${field}`)}
              onChange={(next) => set(i, next)}
              onRemove={() => set(i, undefined)}
            />
          ))}
        </ul>
      )}
      <AddButton
        className="mt-2"
        disabled={!begin}
        onAdd={() => begin && onChange([...openings, newOpening(begin)])}
      >
        Add an opening
      </AddButton>
    </section>
  );
}
