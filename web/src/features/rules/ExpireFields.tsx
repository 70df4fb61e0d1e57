import { Choice } from "../../ui/Choice";
import { NumberField } from "../../ui/NumberField";
import { Line, Words } from "./Line";
import type { RuleBody } from "./rules";

type Props = {
  rule: RuleBody;
  problem: (field: string) => string | undefined;
  set: (change: Partial<RuleBody>) => void;
};

const actions = [
  { value: "archive", name: "Archive them" },
  { value: "draft", name: "Take them back to draft" },
  { value: "bin", name: "Put them into the bin" },
];

const told: Record<string, string> = {
  archive: "Out of lists, feeds and sitemap. The page stays, with a dated notice to readers.",
  draft: "Readers no longer find the page. The text is kept, to be written on.",
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
      <Line name="At most" hint="0 is no limit. What is left over is taken at the next turn.">
        <NumberField
          label="Most posts a run"
          hideLabel
          className="w-16! text-center"
          value={rule.mostARun ?? 0}
          error={problem("mostARun")}
          onChange={(mostARun) => set({ mostARun })}
        />
        <Words>posts a run, in</Words>
        <NumberField
          label="Most seconds a run"
          hideLabel
          className="w-16! text-center"
          value={rule.mostSeconds ?? 0}
          error={problem("mostSeconds")}
          onChange={(mostSeconds) => set({ mostSeconds })}
        />
        <Words>seconds</Words>
      </Line>
    </>
  );
}
