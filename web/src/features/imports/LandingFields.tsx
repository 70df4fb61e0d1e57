import { Choice } from "../../ui/Choice";
import { DateField } from "../../ui/DateField";
import { Field } from "../../ui/Field";
import { Fold } from "../../ui/Fold";
import { NumberField, OptionalNumberField } from "../../ui/NumberField";
import { Tick } from "../../ui/Tick";
import { useSay } from "../../ui/toast";
import { newPattern } from "../plan/reflow";
import { CadenceFields } from "../rules/CadenceFields";
import { PatternFields } from "../reflow/PatternFields";
import type { Part } from "./SetupScreen";
import type { Setup } from "./imports";

const ways = [
  { value: "drafts", name: "Drafts" },
  { value: "shelf", name: "On the shelf" },
  { value: "placed", name: "Scheduled, each with a time" },
  { value: "dated", name: "With the dates of their source" },
  { value: "links", name: "Link items, for rules to share" },
];

/** How often a portion comes, to begin with. */
const daily = {
  by: "every" as const,
  n: 1,
  unit: "days" as const,
  at: "06:00",
  weekdays: [],
  sway: 0,
  openings: [],
};

/** Where the posts go. */
export function LandingFields({ site, setup, wrong, onChange }: Part) {
  const say = useSay();
  const landing = setup.landing ?? {};
  const set = (change: Partial<NonNullable<Setup["landing"]>>) =>
    onChange({ landing: { ...landing, ...change } });
  const as = landing.as ?? "drafts";
  return (
    <Fold title="Where they go" open summary={ways.find((w) => w.value === as)?.name ?? ""}>
      <div className="flex flex-wrap items-start gap-3">
        <div className="w-64">
          <Field label="They become" error={wrong("landing.as")}>
            <Choice label="They become" value={as} options={ways} onChange={(to) => set({ as: to })} />
          </Field>
        </div>
        {as === "placed" && (
          <>
            {!landing.portion && (
              <div className="w-44">
                <DateField
                  label="Start from"
                  optional
                  placeholder="today"
                  hint="A past date publishes at once, backdated."
                  value={landing.start ?? ""}
                  error={wrong("landing.start")}
                  onChange={(start) => set({ start: start || undefined })}
                />
              </div>
            )}
            <div className="w-56">
              <Field label="Times from">
                <Choice
                  label="Times from"
                  value={landing.pattern ? "pattern" : "rhythm"}
                  options={[
                    { value: "rhythm", name: "the rhythm" },
                    { value: "pattern", name: "a pattern, just this once" },
                  ]}
                  onChange={(by) =>
                    by === "pattern"
                      ? void newPattern(site).then((pattern) => set({ pattern }), say.trouble)
                      : set({ pattern: undefined })
                  }
                />
              </Field>
            </div>
          </>
        )}
      </div>
      {as === "placed" && landing.pattern && (
        <PatternFields
          pattern={landing.pattern}
          wrong={(field) => wrong(`landing.pattern.${field}`)}
          onChange={(pattern) => set({ pattern })}
        />
      )}
      <Tick
        label="In portions, until all are in"
        on={Boolean(landing.portion)}
        onChange={(on) =>
          set(on ? { portion: 5, every: daily, start: undefined } : { portion: undefined, every: undefined })
        }
      />
      {landing.portion !== undefined && landing.every && (
        <div className="space-y-2 border-l border-line pl-3">
          <div className="w-36">
            <NumberField
              label="Posts a portion"
              value={landing.portion}
              error={wrong("landing.portion")}
              onChange={(portion) => set({ portion })}
            />
          </div>
          <CadenceFields
            site={site}
            kind="reshare"
            cadence={landing.every}
            problem={(field) => wrong(`landing.every.${field}`)}
            onChange={(every) => set({ every })}
          />
          <p className="text-xs text-soft">
            The first portion comes as soon as you bring it in.
            {as === "placed" && " Each gets the next free times when it comes."}
          </p>
        </div>
      )}
      <Tick
        label="Also lines that look like posts the blog has"
        on={landing.doubles ?? false}
        onChange={(doubles) => set({ doubles })}
      />
      <Tick
        label="Send me a report by mail when it is done"
        on={landing.mail ?? false}
        onChange={(mail) => set({ mail })}
      />
      <div className="w-44">
        <OptionalNumberField
          label="Pause after, in minutes"
          placeholder="never"
          value={landing.minutes}
          error={wrong("landing.minutes")}
          onChange={(minutes) => set({ minutes })}
        />
      </div>
    </Fold>
  );
}
