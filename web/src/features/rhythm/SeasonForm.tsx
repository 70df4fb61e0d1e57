import { Copy, Dices, Trash2 } from "lucide-react";
import { Refusal } from "../../api/client";
import { SaveButton } from "../../ui/SaveButton";
import { Button } from "../../ui/Button";
import { DateField } from "../../ui/DateField";
import { TextField } from "../../ui/Field";
import { NumberField, OptionalNumberField } from "../../ui/NumberField";
import { Tick } from "../../ui/Tick";
import { useSay } from "../../ui/toast";
import { Warning } from "../../ui/Trouble";
import { Unsaved } from "../../ui/Unsaved";
import { useKept } from "../../ui/useKept";
import { useTell } from "../logbook/useTell";
import { ComingWeeks } from "./ComingWeeks";
import { Openings } from "./Openings";
import { anotherSeed } from "./rhythm";
import { seasonSchema, useDropSeason, useSaveSeason, useSeasonPreview, type Season } from "./seasons";
import { Shape } from "./Shape";
import { WhatIf } from "./WhatIf";

type Props = {
  site: string;
  saved: Season;
  onSaved: (id: number) => void;
  onGone: () => void;
  onCopy: () => void;
};

const asForm = (season: Season): Season => ({ ...season, gap: season.gap ?? 0 });

/** A season as a form: when it holds, its openings, and what it would mean. */
export function SeasonForm({ site, saved, onSaved, onGone, onCopy }: Props) {
  const form = useKept(seasonSchema, asForm(saved));
  const { values: season, set } = form;
  const preview = useSeasonPreview(site, form.valid);
  const save = useSaveSeason(site);
  const drop = useDropSeason(site);
  const say = useSay();
  const tell = useTell(site);
  const problems = preview.data?.problems ?? [];
  // What is already known to be wrong with just these values; the rest the server says when it is asked to save.
  const known = preview.current ? problems : [];
  const problem = (path: string) => form.problem(path, problems);
  const changed = !saved.id || form.changed;
  const stale = save.error instanceof Refusal && save.error.status === 409;

  async function store(passed: Season) {
    const all = await save.mutateAsync(passed);
    const id = passed.id ?? Math.max(...all.map((s) => s.id ?? 0));
    tell(`Season “${passed.name}” saved.`);
    onSaved(id);
    return asForm(all.find((s) => s.id === id) ?? passed);
  }

  return (
    <>
      <Unsaved when={form.changed} what={saved.id ? `the season “${saved.name}”` : "the new season"} />
      <div className="mb-4 flex flex-wrap items-center gap-x-3 gap-y-2">
        <p className="text-sm text-soft">
          Between its dates the season’s openings replace the usual ones. Rest days are the usual week’s.
          Scheduled posts keep their times.
        </p>
        <div className="ml-auto flex flex-wrap gap-2 max-md:ml-0">
          <Button icon={<Dices size={14} />} onClick={() => set({ seed: anotherSeed() })}>
            Shuffle times
          </Button>
          {saved.id && (
            <>
              <Button icon={<Copy size={14} />} onClick={onCopy}>
                Copy
              </Button>
              <Button
                icon={<Trash2 size={14} />}
                disabled={drop.isPending}
                onClick={() =>
                  drop.mutate(saved.id!, {
                    onSuccess: () => {
                      tell(`Season “${saved.name}” deleted. Posts in its slots keep their times.`);
                      onGone();
                    },
                    onError: say.trouble,
                  })
                }
              >
                Delete
              </Button>
            </>
          )}
          <SaveButton
            name="Save season"
            disabled={!changed || save.isPending}
            onSave={() => form.save(store, known)}
          />
        </div>
      </div>
      {save.error && (
        <Warning>
          {save.error.message}
          {stale && " Open the screen again to see it."}
        </Warning>
      )}
      {preview.error && <Warning>{preview.error.message}</Warning>}
      <div className="mb-4 flex flex-wrap items-start gap-4">
        <div className="w-64">
          <TextField
            label="Name"
            value={season.name}
            placeholder="Summer"
            error={problem("name")}
            onChange={(e) => set({ name: e.target.value })}
          />
        </div>
        <DateField
          label="First date"
          value={season.starts}
          error={problem("starts")}
          onChange={(starts) => set({ starts })}
        />
        <DateField
          label="Last date"
          value={season.ends}
          error={problem("ends")}
          onChange={(ends) => set({ ends })}
        />
        <div className="w-40">
          <NumberField
            label="Priority"
            hint="Where seasons overlap, the one higher up applies."
            value={season.priority}
            error={problem("priority")}
            onChange={(priority) => set({ priority })}
          />
        </div>
        <div className="w-52">
          <OptionalNumberField
            label="Minimum minutes between posts"
            placeholder="as in the usual week"
            value={season.gap || undefined}
            error={problem("gap")}
            onChange={(gap) => set({ gap: gap ?? 0 })}
          />
        </div>
        <div className="pt-7">
          <Tick
            label="Uneven minutes only"
            on={season.uneven ?? false}
            onChange={(uneven) => set({ uneven })}
          />
        </div>
      </div>
      <Openings
        site={site}
        openings={season.openings}
        problem={problem}
        onChange={(openings) => set({ openings })}
      />
      {changed && problems.length === 0 && form.valid.name.trim() && (
        <div className="mb-6">
          <WhatIf site={site} change={{ season: form.valid }} />
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
