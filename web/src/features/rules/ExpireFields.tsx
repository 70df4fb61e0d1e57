import { useState } from "react";
import { OptionalNumberField } from "../../ui/NumberField";
import { ActionFields } from "./ActionFields";
import { Line, Words } from "./Line";
import type { RuleBody } from "./rules";

type Props = {
  site: string;
  rule: RuleBody;
  /** The title of the post that readers are sent on to, as it was saved. */
  leadsToTitle?: string | undefined;
  problem: (field: string) => string | undefined;
  set: (change: Partial<RuleBody>) => void;
};

/** What an expiry rule does to its catch. */
export function ExpireFields({ site, rule, leadsToTitle, problem, set }: Props) {
  const [chosen, setTitle] = useState(leadsToTitle);
  return (
    <>
      <ActionFields
        site={site}
        action={{ ...rule, action: rule.action ?? "archive", leadsToTitle: chosen }}
        problem={problem}
        set={({ leadsToTitle: title, ...change }) => {
          setTitle(title ?? chosen);
          set(change);
        }}
      />
      {rule.action !== "delete" && (
        <Line
          name="Authors"
          hint="By mail. They can keep a post a while longer; what they were not told of in time waits."
        >
          <Words>are told</Words>
          <OptionalNumberField
            label="Days of notice"
            hideLabel
            className="w-16! text-center"
            placeholder="none"
            value={rule.tellDays || undefined}
            error={problem("tellDays")}
            onChange={(tellDays) => set({ tellDays: tellDays ?? 0 })}
          />
          <Words>days before</Words>
        </Line>
      )}
      <Line name="At most" hint="The rest waits for the next run.">
        <OptionalNumberField
          label="Most posts a run"
          hideLabel
          className="w-16! text-center"
          placeholder="any"
          value={rule.mostARun || undefined}
          error={problem("mostARun")}
          onChange={(mostARun) => set({ mostARun: mostARun ?? 0 })}
        />
        <Words>posts a run, in</Words>
        <OptionalNumberField
          label="Most seconds a run"
          hideLabel
          className="w-16! text-center"
          placeholder="any"
          value={rule.mostSeconds || undefined}
          error={problem("mostSeconds")}
          onChange={(mostSeconds) => set({ mostSeconds: mostSeconds ?? 0 })}
        />
        <Words>seconds</Words>
      </Line>
    </>
  );
}
