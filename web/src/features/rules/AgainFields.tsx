import { Choice } from "../../ui/Choice";
import { TextField } from "../../ui/Field";
import { OptionalNumberField } from "../../ui/NumberField";
import { ChannelTicks } from "../channels/ChannelTicks";
import { Line, Words } from "./Line";
import type { RuleBody, Rules } from "./rules";

type Props = {
  rule: RuleBody;
  channels: Rules["channels"];
  problem: (field: string) => string | undefined;
  set: (change: Partial<RuleBody>) => void;
};

const unread = [
  { value: "wait", name: "it waits" },
  { value: "out", name: "it comes out all the same" },
];

/** What goes with bringing a post out again: reading it first, and sharing it. */
export function AgainFields({ rule, channels, problem, set }: Props) {
  const shares = (rule.channels ?? []).length > 0;
  return (
    <>
      <Line name="Read it first" hint="Its author is asked by mail, and it is listed under Upkeep.">
        <Words>ask</Words>
        <OptionalNumberField
          label="Days to read it"
          hideLabel
          className="w-16! text-center"
          placeholder="none"
          value={rule.readDays || undefined}
          error={problem("readDays")}
          onChange={(readDays) => set({ readDays: readDays ?? 0 })}
        />
        <Words>{(rule.readDays ?? 0) > 0 ? "days before; if nobody says yes," : "days before"}</Words>
        {(rule.readDays ?? 0) > 0 && (
          <>
            <div className="w-56">
              <Choice
                label="If nobody says yes"
                value={rule.unread ? "out" : "wait"}
                options={unread}
                onChange={(to) => set({ unread: to === "out" })}
              />
            </div>
          </>
        )}
      </Line>
      <Line name="Share it again" hint="With nothing ticked, it comes out quietly.">
        <ChannelTicks
          channels={channels}
          chosen={rule.channels ?? []}
          onChange={(chosen) => set({ channels: chosen })}
        />
        {shares && (
          <div className="flex w-full flex-wrap items-start gap-2">
            <OptionalNumberField
              label="Minutes until it is shared"
              hideLabel
              className="w-18! text-center"
              placeholder="0"
              value={rule.sayAfter || undefined}
              error={problem("sayAfter")}
              onChange={(sayAfter) => set({ sayAfter: sayAfter ?? 0 })}
            />
            <Words>min later, as</Words>
            <div className="w-72">
              <TextField
                label="Wording"
                hideLabel
                value={rule.say ?? ""}
                error={problem("say")}
                onChange={(e) => set({ say: e.target.value })}
              />
            </div>
          </div>
        )}
      </Line>
    </>
  );
}
