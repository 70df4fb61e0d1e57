import { Dices, Plus } from "lucide-react";
import { useState } from "react";
import { useParams } from "react-router";
import { Refusal } from "../../api/client";
import { Button } from "../../ui/Button";
import { clock } from "../../ui/civil";
import { TextField } from "../../ui/Field";
import { useSay } from "../../ui/toast";
import { Trouble, Warning } from "../../ui/Trouble";
import { Waiting } from "../../ui/Waiting";
import { ComingWeeks } from "./ComingWeeks";
import { CalendarFields } from "./CalendarFields";
import { Differences } from "../rules/Differences";
import { Shape } from "./Shape";
import { WeekTapes } from "./WeekTapes";
import { NumberField } from "../../ui/NumberField";
import { OpeningRow } from "./OpeningRow";
import {
  anotherSeed,
  newOpening,
  usePreview,
  useRhythm,
  useSaveRhythm,
  type Opening,
  type Rhythm,
} from "./rhythm";

/** The site's rhythm as a form, and the week that it would yield. */
export default function RhythmScreen() {
  const { site = "" } = useParams();
  const rhythm = useRhythm(site);
  if (rhythm.isPending) return <Waiting what="the rhythm" />;
  if (rhythm.error) return <Trouble error={rhythm.error} retry={() => void rhythm.refetch()} />;
  return (
    <RhythmForm
      key={rhythm.data.version}
      site={site}
      saved={rhythm.data}
      reload={() => void rhythm.refetch()}
    />
  );
}

function RhythmForm({ site, saved, reload }: { site: string; saved: Rhythm; reload: () => void }) {
  const [rhythm, setRhythm] = useState(saved);
  const preview = usePreview(site, rhythm);
  const save = useSaveRhythm(site);
  const say = useSay();
  const [chosen, setChosen] = useState<string>();
  const problems = preview.data?.problems ?? [];
  const problem = (path: string) => problems.find((p) => p.path === path)?.message;
  const changed = JSON.stringify(rhythm) !== JSON.stringify(saved);
  const stale = save.error instanceof Refusal && save.error.status === 409;

  function setOpening(i: number, opening: Opening | undefined) {
    setRhythm({
      ...rhythm,
      openings: rhythm.openings.flatMap((o, j) => (j !== i ? [o] : opening ? [opening] : [])),
    });
  }

  return (
    <main className="mx-auto w-full max-w-6xl px-5 pt-4 pb-10">
      <div className="mb-4 flex items-center gap-3">
        <h1 className="font-title text-2xl">Rhythm</h1>
        <p className="text-sm text-soft">
          When posts come out in a week. Scheduled posts keep their times; only free slots change.
        </p>
        <div className="ml-auto flex gap-2">
          <Button icon={<Dices size={14} />} onClick={() => setRhythm({ ...rhythm, seed: anotherSeed() })}>
            Another draw
          </Button>
          {changed && <Button onClick={() => setRhythm(saved)}>Discard changes</Button>}
          <Button
            look="main"
            disabled={!changed || problems.length > 0 || save.isPending}
            onClick={() =>
              // By promise: the form is made anew for the version that was saved. What went wrong shows above it.
              save.mutateAsync(rhythm).then(
                () => say.done("The rhythm is saved."),
                () => undefined,
              )
            }
          >
            Save rhythm
          </Button>
        </div>
      </div>
      {changed && problems.length === 0 && preview.data && (
        <p role="status" className="mb-3 rounded-md bg-open px-3 py-2 text-sm">
          {preview.data.off === 0
            ? "Saving moves no scheduled post."
            : `Saving moves no scheduled post: ${preview.data.off === 1 ? "1 of them keeps its time though it would" : `${preview.data.off} of them keep their times though they would`} be elsewhere in the new rhythm.`}
        </p>
      )}
      {save.error && (
        <div className="mb-4 flex items-center gap-2">
          <Warning>{save.error.message}</Warning>
          {stale && <Button onClick={reload}>Load theirs</Button>}
        </div>
      )}
      {preview.error && <Warning>{preview.error.message}</Warning>}
      <div className="mb-4 flex gap-4">
        <div className="w-72">
          <TextField
            label="Name"
            value={rhythm.name}
            error={problem("name")}
            onChange={(e) => setRhythm({ ...rhythm, name: e.target.value })}
          />
        </div>
        <div className="w-64">
          <NumberField
            label="Gap, in minutes"
            hint="The fewest minutes between two publications."
            value={rhythm.gap}
            error={problem("gap")}
            onChange={(gap) => setRhythm({ ...rhythm, gap })}
          />
        </div>
      </div>
      <CalendarFields rhythm={rhythm} problem={problem} onChange={setRhythm} />
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
            openings={rhythm.openings}
            chosen={chosen}
            troubled={(i) => problems.some((p) => p.path.startsWith(`openings[${i}].`))}
            onChoose={setChosen}
            onChange={(i, change) => setOpening(i, { ...rhythm.openings[i]!, ...change })}
            onAdd={(weekday, from) => {
              const added = {
                ...newOpening(),
                weekdays: [weekday],
                from: clock(from),
                to: clock(from + 120),
              };
              setRhythm({ ...rhythm, openings: [...rhythm.openings, added] });
              setChosen(added.key);
            }}
          />
        </div>
        {rhythm.openings.length === 0 ? (
          <p className="rounded-md border border-dashed border-strong px-3 py-4 text-sm text-soft">
            No opening yet, so the rhythm yields no slots. Add one: say on which weekdays, and at what time or
            between which.
          </p>
        ) : (
          <ul className="divide-y divide-line rounded-md border border-line bg-sheet">
            {rhythm.openings.map((o, i) => (
              <OpeningRow
                key={o.key}
                site={site}
                chosen={o.key === chosen}
                opening={o}
                problem={(field) => problem(`openings[${i}].${field}`)}
                onChange={(next) => setOpening(i, next)}
                onRemove={() => setOpening(i, undefined)}
              />
            ))}
          </ul>
        )}
        <Button
          className="mt-2"
          icon={<Plus size={14} />}
          onClick={() => setRhythm({ ...rhythm, openings: [...rhythm.openings, newOpening()] })}
        >
          Add an opening
        </Button>
      </section>
      {changed && problems.length === 0 && (
        <div className="mb-6">
          <Differences site={site} change={{ days: 60, rhythm }} />
        </div>
      )}
      {preview.data && (
        <div className="grid grid-cols-[1fr_16rem] gap-5">
          <ComingWeeks days={preview.data.days} troubled={problems.length > 0} />
          {problems.length === 0 && <Shape preview={preview.data} />}
        </div>
      )}
    </main>
  );
}
