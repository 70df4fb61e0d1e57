import { Copy, Dices, Trash2 } from "lucide-react";
import { useState } from "react";
import { Refusal } from "../../api/client";
import { Button } from "../../ui/Button";
import { TextField } from "../../ui/Field";
import { NumberField, OptionalNumberField } from "../../ui/NumberField";
import { Tick } from "../../ui/Tick";
import { useSay } from "../../ui/toast";
import { Warning } from "../../ui/Trouble";
import { useTell } from "../logbook/useTell";
import { ComingWeeks } from "./ComingWeeks";
import { Openings } from "./Openings";
import { anotherSeed } from "./rhythm";
import { newSeason, useDropSeason, useSaveSeason, useSeasonPreview, type Season } from "./seasons";
import { Shape } from "./Shape";
import { WhatIf } from "./WhatIf";

type Props = { site: string; saved: Season; onSaved: (id: number) => void; onGone: () => void };

/** A season as a form: when it holds, its openings, and what it would mean. */
export function SeasonForm({ site, saved, onSaved, onGone }: Props) {
  const [season, setSeason] = useState(saved);
  const preview = useSeasonPreview(site, season);
  const save = useSaveSeason(site);
  const drop = useDropSeason(site);
  const say = useSay();
  const tell = useTell(site);
  const problems = preview.data?.problems ?? [];
  const problem = (path: string) => problems.find((p) => p.path === path)?.message;
  const changed = !season.id || JSON.stringify(season) !== JSON.stringify(saved);
  const set = (change: Partial<Season>) => setSeason({ ...season, ...change });
  const stale = save.error instanceof Refusal && save.error.status === 409;

  function store() {
    // By promise: the form is made anew for the version that was saved. What went wrong shows above it.
    save.mutateAsync(season).then(
      (all) => {
        tell(`The season “${season.name}” is saved.`);
        onSaved(season.id ?? Math.max(...all.map((s) => s.id ?? 0)));
      },
      () => undefined,
    );
  }

  return (
    <>
      <div className="mb-4 flex flex-wrap items-center gap-x-3 gap-y-2">
        <p className="text-sm text-soft">
          Between its dates the season’s openings hold in place of the usual ones. Rest days are the usual
          week’s. Scheduled posts keep their times.
        </p>
        <div className="ml-auto flex flex-wrap gap-2 max-md:ml-0">
          <Button icon={<Dices size={14} />} onClick={() => set({ seed: anotherSeed() })}>
            Another draw
          </Button>
          {season.id && (
            <>
              <Button
                icon={<Copy size={14} />}
                onClick={() => setSeason(newSeason(season, season.ends, `${season.name}, again`))}
              >
                Copy
              </Button>
              <Button
                icon={<Trash2 size={14} />}
                disabled={drop.isPending}
                onClick={() =>
                  drop.mutate(season.id!, {
                    onSuccess: () => {
                      tell(`The season “${saved.name}” is dropped; posts in its slots keep their times.`);
                      onGone();
                    },
                    onError: say.trouble,
                  })
                }
              >
                Drop
              </Button>
            </>
          )}
          <Button
            look="main"
            disabled={!changed || !season.name.trim() || problems.length > 0 || save.isPending}
            onClick={store}
          >
            Save season
          </Button>
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
            hint={season.name.trim() ? undefined : "Wanted to save it."}
            error={problem("name")}
            onChange={(e) => set({ name: e.target.value })}
          />
        </div>
        <TextField
          label="First date"
          type="date"
          value={season.starts}
          error={problem("starts")}
          onChange={(e) => e.target.value && set({ starts: e.target.value })}
        />
        <TextField
          label="Last date"
          type="date"
          value={season.ends}
          error={problem("ends")}
          onChange={(e) => e.target.value && set({ ends: e.target.value })}
        />
        <div className="w-40">
          <NumberField
            label="Priority"
            hint="Where seasons overlap, the highest holds."
            value={season.priority}
            error={problem("priority")}
            onChange={(priority) => set({ priority })}
          />
        </div>
        <div className="w-52">
          <OptionalNumberField
            label="Minimum minutes between posts"
            placeholder="as in the usual week"
            value={season.gap}
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
        problems={problems}
        onChange={(openings) => set({ openings })}
      />
      {changed && problems.length === 0 && season.name.trim() && (
        <div className="mb-6">
          <WhatIf site={site} change={{ season }} />
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
