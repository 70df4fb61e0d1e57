import { Choice } from "../../ui/Choice";
import { OptionalNumberField } from "../../ui/NumberField";
import { Line, Words } from "./Line";
import type { RuleBody } from "./rules";

type Props = {
  rule: RuleBody;
  problem: (field: string) => string | undefined;
  set: (change: Partial<RuleBody>) => void;
};

const actions = [
  { value: "archive", name: "Archive them" },
  { value: "draft", name: "Turn them back into drafts" },
  { value: "bin", name: "Move them to the bin" },
];

const told: Record<string, string> = {
  archive: "Out of lists, feeds and sitemap. The page stays, with a dated notice to readers.",
  draft: "Readers no longer find the page. The text is kept as a draft.",
  bin: "Readers no longer find the page. Nothing is deleted for good.",
};

/** What an expiry rule does to its catch. */
export function ExpireFields({ rule, problem, set }: Props) {
  return (
    <>
      <Line name="What happens" hint={told[rule.action ?? "archive"] ?? ""}>
        <div className="w-56">
          <Choice
            label="What happens"
            value={rule.action ?? "archive"}
            options={actions}
            onChange={(action) => set({ action })}
          />
        </div>
      </Line>
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
