import { Choice } from "../../ui/Choice";
import { DateField } from "../../ui/DateField";
import { Field } from "../../ui/Field";
import { Fold } from "../../ui/Fold";
import { OptionalNumberField } from "../../ui/NumberField";
import { Tick } from "../../ui/Tick";
import { useSay } from "../../ui/toast";
import { newPattern } from "../plan/reflow";
import { PatternFields } from "../reflow/PatternFields";
import type { Part } from "./SetupScreen";
import type { Setup } from "./imports";

const ways = [
  { value: "drafts", name: "Drafts" },
  { value: "shelf", name: "On the shelf" },
  { value: "placed", name: "Scheduled, each with a time" },
  { value: "dated", name: "With the dates of their source" },
];

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
