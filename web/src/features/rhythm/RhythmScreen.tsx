import { Dices } from "lucide-react";
import { lazy, Suspense, useState } from "react";
import { useParams, useSearchParams } from "react-router";
import { Refusal } from "../../api/client";
import { SaveButton } from "../../ui/SaveButton";
import { Button } from "../../ui/Button";
import { TextField } from "../../ui/Field";
import { Trouble, Warning } from "../../ui/Trouble";
import { afterSave, Unsaved } from "../../ui/Unsaved";
import { Waiting } from "../../ui/Waiting";
import { useSay } from "../../ui/toast";
import { useTell } from "../logbook/useTell";
import { ComingWeeks } from "./ComingWeeks";
import { CalendarFields } from "./CalendarFields";
import { Differences } from "../forecast/Differences";
import { Shape } from "./Shape";
import { NumberField } from "../../ui/NumberField";
import { useOffered } from "./offered";
import { Openings } from "./Openings";
import { Rests } from "./Rests";
import {
  anotherSeed,
  asForm,
  rhythmSchema,
  usePreview,
  useRhythm,
  useSaveRhythm,
  type Rhythm,
} from "./rhythm";
import { SeasonForm } from "./SeasonForm";
import { useNewSeason, useSeasons } from "./seasons";
import { SeasonTabs } from "./SeasonTabs";
import { WhatIf } from "./WhatIf";
import { MovedOn } from "../../ui/MovedOn";
import { useKept } from "../../ui/useKept";

const ReflowSheet = lazy(() => import("../reflow/ReflowSheet").then((m) => ({ default: m.ReflowSheet })));

/** When posts come out: the usual week, and the seasons that hold in its place. */
export default function RhythmScreen() {
  const { site = "" } = useParams();
  const [search, setSearch] = useSearchParams();
  const rhythm = useRhythm(site);
  const seasons = useSeasons(site);
  const [movingOff, setMovingOff] = useState(false);
  const shown = search.get("season") ?? "";
  const copied = Number(search.get("of") ?? 0);
  const fresh = useNewSeason(site, shown === "new", copied);
  const error = rhythm.error ?? seasons.error ?? fresh.error;
  if (error) return <Trouble error={error} retry={() => void rhythm.refetch()} />;
  if (!rhythm.data || !seasons.data) return <Waiting what="the rhythm" />;
  const season = seasons.data.find((s) => String(s.id) === shown);
  const open = shown === "new" ? fresh.data : season;
  const show = (id: string) => setSearch(id ? { season: id } : {});
  const goOn = (id: string) => setSearch(id ? { season: id } : {}, { state: afterSave });
  return (
    <main className="mx-auto w-full max-w-6xl px-5 pt-4 pb-10">
      <h1 className="mb-2 font-title text-2xl">Rhythm</h1>
      <SeasonTabs seasons={seasons.data} shown={shown} onShow={show} />
      {shown === "new" && !open ? (
        <Waiting what="the new season" />
      ) : open ? (
        <SeasonForm
          key={`${open.id ?? "new"} ${copied}`}
          site={site}
          saved={open}
          onSaved={(id) => goOn(String(id))}
          onGone={() => goOn("")}
          onCopy={() => setSearch({ season: "new", of: shown })}
        />
      ) : (
        <RhythmForm
          key={site}
          site={site}
          saved={rhythm.data}
          reload={() => rhythm.refetch({ throwOnError: true }).then((read) => read.data)}
          onMoveOff={() => setMovingOff(true)}
        />
      )}
      <Suspense fallback={null}>
        {movingOff && (
          <ReflowSheet site={site} start={{ do: "rest" }} choices={[]} onClose={() => setMovingOff(false)} />
        )}
      </Suspense>
    </main>
  );
}

type FormProps = {
  site: string;
  saved: Rhythm;
  reload: () => Promise<Rhythm | undefined>;
  onMoveOff: () => void;
};

function RhythmForm({ site, saved, reload, onMoveOff }: FormProps) {
  const form = useKept(rhythmSchema, asForm(saved));
  const { values: rhythm, set, changed } = form;
  const offered = useOffered((openings) => set({ openings: [...rhythm.openings, ...openings] }));
  const preview = usePreview(site, form.valid);
  const save = useSaveRhythm(site);
  const tell = useTell(site);
  const say = useSay();
  const problems = preview.data?.problems ?? [];
  // What is already known to be wrong with just these values; the rest the server says when it is asked to save.
  const known = preview.current ? problems : [];
  const problem = (path: string) => form.problem(path, problems);
  const resting = preview.data?.resting ?? 0;
  const stale = save.error instanceof Refusal && save.error.status === 409;

  async function store(passed: Rhythm) {
    const kept = await save.mutateAsync(passed);
    tell("Rhythm saved.");
    if (resting > 0) onMoveOff();
    return asForm(kept);
  }
  const takeTheirs = async () => {
    try {
      const theirs = await reload();
      if (!theirs) return;
      save.reset();
      form.take(asForm(theirs));
    } catch (error) {
      say.trouble(error);
    }
  };

  return (
    <>
      <Unsaved when={changed} what="the rhythm" />
      <div className="mb-4 flex flex-wrap items-center gap-x-3 gap-y-2">
        <p className="text-sm text-soft">
          When posts come out in a week. Scheduled posts keep their times; only free slots change.
        </p>
        <div className="ml-auto flex flex-wrap gap-2 max-md:ml-0">
          <Button icon={<Dices size={14} />} onClick={() => set({ seed: anotherSeed() })}>
            Shuffle times
          </Button>
          {changed && <Button onClick={() => form.take(asForm(saved))}>Discard changes</Button>}
          <SaveButton
            name="Save rhythm"
            disabled={!changed || save.isPending}
            onSave={() => form.save(store, known)}
          />
        </div>
      </div>
      {offered && changed && (
        <p className="mb-3 rounded-md bg-open px-3 py-2 text-sm">
          The best hours of Results are added to the openings. Nothing changes until you save the rhythm.
        </p>
      )}
      {changed && problems.length === 0 && preview.data && (
        <p role="status" className="mb-3 rounded-md bg-open px-3 py-2 text-sm">
          {preview.data.off === 0
            ? "Saving moves no scheduled post."
            : `Saving moves no scheduled post: ${preview.data.off === 1 ? "1 of them keeps its time though it would" : `${preview.data.off} of them keep their times though they would`} be elsewhere in the new rhythm.`}
        </p>
      )}
      {resting > 0 && problems.length === 0 && (
        <p className="mb-3 flex flex-wrap items-center gap-3 rounded-md border border-away px-3 py-2 text-sm text-away">
          {resting === 1 ? "1 post is" : `${resting} posts are`} planned on rest days.{" "}
          {changed ? (
            "Once the rhythm is saved you can see where they would move."
          ) : (
            <Button onClick={onMoveOff}>See where they would move…</Button>
          )}
        </p>
      )}
      {form.movedOn && !stale && <MovedOn what="the rhythm" onTake={() => form.take(asForm(saved))} />}
      {save.error && (
        <div className="mb-4 flex items-center gap-2">
          <Warning>{save.error.message}</Warning>
          {stale && <Button onClick={() => void takeTheirs()}>Load theirs</Button>}
        </div>
      )}
      {preview.error && <Warning>{preview.error.message}</Warning>}
      <div className="mb-4 flex gap-4">
        <div className="w-72">
          <TextField
            label="Name"
            value={rhythm.name}
            error={problem("name")}
            onChange={(e) => set({ name: e.target.value })}
          />
        </div>
        <div className="w-64">
          <NumberField
            label="Minimum minutes between posts"
            value={rhythm.gap}
            error={problem("gap")}
            onChange={(gap) => set({ gap })}
          />
        </div>
      </div>
      <CalendarFields rhythm={rhythm} problem={problem} set={set} />
      <Openings
        site={site}
        openings={rhythm.openings}
        problem={problem}
        onChange={(openings) => set({ openings })}
      />
      <Rests
        site={site}
        rests={rhythm.rests ?? []}
        saved={saved.rests ?? []}
        problem={problem}
        onChange={(rests) => set({ rests })}
      />
      {changed && problems.length === 0 && (
        <div className="mb-6">
          <WhatIf site={site} change={{ rhythm: form.valid }} />
          <Differences site={site} change={{ days: 60, rhythm: form.valid }} />
        </div>
      )}
      {preview.data && (
        <div className="grid grid-cols-[1fr_16rem] gap-5 max-lg:grid-cols-1">
          <ComingWeeks days={preview.data.days} troubled={problems.length > 0} />
          {problems.length === 0 && <Shape preview={preview.data} />}
        </div>
      )}
    </>
  );
}
