import { Radio, RadioGroup } from "@headlessui/react";
import { CirclePause, CirclePlay } from "lucide-react";
import { useState } from "react";
import { Refusal } from "../../api/client";
import { SaveButton } from "../../ui/SaveButton";
import { Button } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { Field } from "../../ui/Field";
import { Trouble, Warning } from "../../ui/Trouble";
import { Unsaved } from "../../ui/Unsaved";
import { Waiting } from "../../ui/Waiting";
import { useStatus } from "../plan/status";
import { useNow } from "../plan/now";
import { useTell } from "../logbook/useTell";
import { NumberField, OptionalNumberField } from "../../ui/NumberField";
import { catchUps, orders, settingsSchema, useSaveSettings, useSettings, type Settings } from "./settings";
import { Part } from "../../ui/Part";
import { Tick } from "../../ui/Tick";
import { AudienceZones } from "./AudienceZones";
import { ZoneChange } from "./ZoneChange";
import { ZoneField } from "./ZoneField";
import { MovedOn } from "../../ui/MovedOn";
import { useKept } from "../../ui/useKept";

/** When posts come out, and what is looked after. */
export function PlanSettings({ site }: { site: string }) {
  const settings = useSettings(site);
  if (settings.isPending) return <Waiting what="the settings" />;
  if (settings.error) return <Trouble error={settings.error} retry={() => void settings.refetch()} />;
  return <SettingsForm key={site} site={site} saved={settings.data} />;
}

function SettingsForm({ site, saved }: { site: string; saved: Settings }) {
  const form = useKept(settingsSchema, saved);
  const { values: settings, set, changed } = form;
  const save = useSaveSettings(site);
  const tell = useTell(site);
  const now = useNow(useStatus(site).data?.now);
  const [moving, setMoving] = useState(false);
  const refusal = save.error instanceof Refusal ? save.error : undefined;

  const store = (done: string, more?: Partial<Settings>) => async (passed: Settings) => {
    const kept = await save.mutateAsync({ ...passed, ...more });
    tell(done);
    return kept;
  };

  return (
    <>
      <div className="mb-4 flex items-center gap-3">
        <Unsaved when={changed} what="the settings" />
        <h1 className="font-title text-2xl">Plan</h1>
        <div className="ml-auto flex gap-2">
          {changed && <Button onClick={() => form.take(saved)}>Discard changes</Button>}
          <SaveButton
            name="Save settings"
            disabled={!changed || save.isPending}
            onSave={() =>
              settings.zone !== saved.zone
                ? form.submit(() => setMoving(true))
                : form.save(store("Settings saved."))
            }
          />
        </div>
      </div>
      {form.movedOn && <MovedOn what="the settings" onTake={() => form.take(saved)} />}
      {save.error && !refusal?.problem.errors && <Warning>{save.error.message}</Warning>}
      <Part title="Time">
        <div className="w-80 max-w-full">
          <ZoneField
            now={now?.millis ?? 0}
            value={settings.zone}
            error={refusal?.field("zone")}
            onChange={(zone) => set({ zone })}
          />
        </div>
      </Part>
      <Part title="Readers elsewhere" hint="Up to three clocks of readers elsewhere, shown under the tape.">
        <AudienceZones
          now={now?.millis ?? 0}
          zones={settings.audienceZones ?? []}
          error={refusal?.field("audienceZones")}
          onChange={(audienceZones) => set({ audienceZones })}
        />
      </Part>
      {moving && (
        <ZoneChange
          site={site}
          from={saved.zone}
          to={settings.zone}
          busy={save.isPending}
          onClose={() => setMoving(false)}
          onKeep={(planned) => {
            setMoving(false);
            form.save(
              store(
                planned === "clock"
                  ? "Time zone changed. Scheduled posts keep their times of day."
                  : "Time zone changed. Scheduled posts come out at the same moment as before.",
                { planned },
              ),
            );
          }}
        />
      )}
      <Part
        title="Pause"
        hint="While the site is paused nothing comes out. When you resume it, overdue posts are handled as chosen below."
      >
        <Button
          icon={saved.paused ? <CirclePlay size={14} /> : <CirclePause size={14} />}
          disabled={save.isPending || changed}
          onClick={() =>
            form.save(
              store(saved.paused ? "The site is running again." : "The site is paused.", {
                paused: !saved.paused,
              }),
            )
          }
        >
          {saved.paused ? "Resume the site" : "Pause the site"}
        </Button>
      </Part>
      <Part
        title="Overdue posts"
        hint="What happens to a post whose time passed while nothing could be published."
      >
        <CatchUp
          settings={settings}
          set={set}
          error={form.problem("catchUpMinutes") ?? refusal?.field("catchUpMinutes")}
        />
      </Part>
      <Part title="Shelf">
        <div className="w-64">
          <Field label="Order">
            <Choice
              label="Order"
              value={settings.shelfOrder}
              options={orders}
              onChange={(shelfOrder) => set({ shelfOrder })}
            />
          </Field>
        </div>
      </Part>
      <Part
        title="Limits"
        hint="Limits on what is proposed for the shelf. Times you set by hand may go past them."
      >
        <Caps
          settings={settings}
          set={set}
          error={(name) => form.problem(`caps.${name}`) ?? refusal?.field(`caps.${name}`)}
        />
      </Part>
      <Part
        title="Ready for the day"
        hint="Checks on scheduled posts before they come out. The Almanac shows what they find."
      >
        <div className="space-y-1.5">
          {checks.map((c) => (
            <Tick
              key={c.check}
              label={c.name}
              on={settings.ready.includes(c.check)}
              onChange={(on) =>
                set({
                  ready: checks
                    .map((one) => one.check)
                    .filter((one) => (one === c.check ? on : settings.ready.includes(one))),
                })
              }
            />
          ))}
        </div>
      </Part>
      <Part title="Bin and logbook" hint="What is deleted from the bin can’t be brought back.">
        <Kept
          settings={settings}
          saved={saved}
          set={set}
          error={(name) => form.problem(name) ?? refusal?.field(name)}
        />
      </Part>
      <Part title="Coming out again" hint="What readers see on a republished post.">
        <Tick
          label="Say when it was first published"
          on={settings.firstDateShown}
          onChange={(firstDateShown) => set({ firstDateShown })}
        />
      </Part>
    </>
  );
}

/** How long what is in the bin, and in the logbook, is kept. */
function Kept({
  settings,
  saved,
  set,
  error,
}: PartProps & { saved: Settings; error: (name: string) => string | undefined }) {
  const deletes = error("binConfirm");
  return (
    <div className="space-y-2">
      <div className="flex flex-wrap items-start gap-2 text-sm">
        <span className="pt-1.5">Posts in the bin are deleted for good after</span>
        <OptionalNumberField
          label="Days in the bin"
          hideLabel
          className="w-20! text-center"
          placeholder="never"
          value={settings.binDays || undefined}
          error={error("binDays")}
          onChange={(binDays) => set({ binDays: binDays ?? 0 })}
        />
        <span className="pt-1.5">days</span>
      </div>
      {deletes && settings.binDays !== saved.binDays && (
        <div className="flex flex-wrap items-center gap-3">
          <Warning>{deletes}</Warning>
          <NumberField
            label="How many posts"
            hideLabel
            className="w-20! text-center"
            value={settings.binConfirm ?? 0}
            onChange={(binConfirm) => set({ binConfirm })}
          />
        </div>
      )}
      <div className="flex flex-wrap items-start gap-2 text-sm">
        <span className="pt-1.5">The logbook is kept for</span>
        <OptionalNumberField
          label="Days of the logbook"
          hideLabel
          className="w-20! text-center"
          placeholder="ever"
          value={settings.logDays || undefined}
          error={error("logDays")}
          onChange={(logDays) => set({ logDays: logDays ?? 0 })}
        />
        <span className="pt-1.5">days</span>
      </div>
    </div>
  );
}

const checks: { check: Settings["ready"][number]; name: string }[] = [
  { check: "text", name: "a text" },
  { check: "category", name: "a category" },
  { check: "image", name: "a featured image" },
  { check: "excerpt", name: "an excerpt of its own" },
  { check: "links", name: "links to the blog that lead somewhere" },
  { check: "twins", name: "no other post of nearly the same title within a week" },
];

type PartProps = { settings: Settings; set: (change: Partial<Settings>) => void };

function CatchUp({ settings, set, error }: PartProps & { error: string | undefined }) {
  return (
    <>
      <RadioGroup
        aria-label="Overdue posts"
        value={settings.catchUp}
        onChange={(catchUp) => set({ catchUp })}
        className="space-y-1"
      >
        {catchUps.map((c) => (
          <Radio
            key={c.value}
            value={c.value}
            className="group flex cursor-pointer gap-2 rounded-md px-2 py-1 data-focus:bg-sunk"
          >
            <span className="mt-0.5 size-4 shrink-0 rounded-full border border-strong bg-sheet group-data-checked:border-[5px] group-data-checked:border-ink" />
            <span>
              <span className="block text-base">{c.name}</span>
              <span className="block text-xs text-soft">{c.hint}</span>
            </span>
          </Radio>
        ))}
      </RadioGroup>
      {settings.catchUp === "at once if fresh" && (
        <div className="mt-2 w-64 pl-8">
          <NumberField
            label="Publish late by up to, in minutes"
            value={settings.catchUpMinutes}
            error={error}
            onChange={(catchUpMinutes) => set({ catchUpMinutes })}
          />
        </div>
      )}
    </>
  );
}

const capNames = {
  day: "Posts a day",
  authorDay: "Posts a day for one author",
  authorWeek: "Posts a week for one author",
  categoryDays: "Days between two of one category",
} as const;

function Caps({ settings, set, error }: PartProps & { error: (name: string) => string | undefined }) {
  return (
    <div className="grid max-w-lg grid-cols-2 gap-3">
      {(Object.keys(capNames) as (keyof typeof capNames)[]).map((name) => (
        <OptionalNumberField
          key={name}
          label={capNames[name]}
          placeholder="any"
          value={settings.caps[name] || undefined}
          error={error(name)}
          onChange={(value) => set({ caps: { ...settings.caps, [name]: value ?? 0 } })}
        />
      ))}
    </div>
  );
}
