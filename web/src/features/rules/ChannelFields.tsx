import { Choice } from "../../ui/Choice";
import { NumberField } from "../../ui/NumberField";
import { ChannelTicks } from "../channels/ChannelTicks";
import { Line, Words } from "./Line";
import type { RuleBody, Rules } from "./rules";

const modes = [
  { value: "together", name: "on all of them at once" },
  { value: "in turn", name: "on one after another, a turn each" },
  { value: "staggered", name: "on the first, then on the next" },
];

type Props = {
  rule: RuleBody;
  channels: Rules["channels"];
  problem: (field: string) => string | undefined;
  set: (change: Partial<RuleBody>) => void;
};

/** Where messages go, and how several channels share the turns. */
export function ChannelFields({ rule, channels, problem, set }: Props) {
  const chosen = rule.channels ?? [];
  return (
    <Line name="Channels">
      <ChannelTicks channels={channels} chosen={chosen} onChange={(next) => set({ channels: next })} />
      {problem("channels") && (
        <p role="alert" className="w-full text-xs text-madder">
          {problem("channels")}
        </p>
      )}
      {chosen.length > 1 && (
        <div className="flex w-full flex-wrap items-start gap-2">
          <Words>Each turn goes out</Words>
          <div className="w-72">
            <Choice
              label="How channels share turns"
              value={rule.mode || "together"}
              options={modes}
              onChange={(mode) => set({ mode })}
            />
          </div>
          {rule.mode === "staggered" && (
            <>
              <NumberField
                label="Minutes between channels"
                hideLabel
                className="w-18! text-center"
                value={rule.between ?? 60}
                error={problem("between")}
                onChange={(between) => set({ between })}
              />
              <Words>min apart</Words>
            </>
          )}
        </div>
      )}
    </Line>
  );
}
