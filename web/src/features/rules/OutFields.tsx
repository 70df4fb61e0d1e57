import { Choice } from "../../ui/Choice";
import { DateField } from "../../ui/DateField";
import { NumberField, OptionalNumberField } from "../../ui/NumberField";
import { Tick } from "../../ui/Tick";
import { TimeField } from "../../ui/TimeField";
import { WeekdayButtons } from "../../ui/WeekdayButtons";
import { Line, Words } from "./Line";
import type { RuleBody } from "./rules";
import { PickedPosts } from "./PickedPosts";
import { SpanField } from "./SpanField";

type Props = {
  site: string;
  id: number;
  rule: RuleBody;
  problem: (field: string) => string | undefined;
  set: (change: Partial<RuleBody>) => void;
};

const againOrders = [
  { value: "longest", name: "Longest unseen first" },
  { value: "oldest", name: "Oldest first" },
  { value: "shuffled", name: "Shuffled rounds" },
  { value: "clicked", name: "Most clicked first" },
];

const shareOrders = [
  { value: "longest", name: "Longest since its last outing" },
  { value: "oldest", name: "Oldest first" },
  { value: "newest", name: "Newest first" },
  { value: "shuffled", name: "Shuffled rounds" },
  { value: "weighted", name: "By clicks on its outings" },
];

const hours = [
  { value: "all day" as const, name: "All day" },
  { value: "between" as const, name: "Between" },
];

/** What rules that bring posts out have in common: ages, distance, order and hours. */
export function OutFields({ site, id, rule, problem, set }: Props) {
  const share = rule.kind === "reshare";
  const none = { n: 0, unit: "days" as const };
  const allDay = (rule.from ?? "00:00") === (rule.to ?? "00:00");
  return (
    <>
      <Line name="Age" hint={share ? "Counted from publication." : "Counted from when it was last out."}>
        <Words>at least</Words>
        <SpanField
          label="Youngest"
          none="any"
          span={rule.youngest ?? none}
          error={problem("youngest")}
          onChange={(youngest) => set({ youngest })}
        />
        {share && (
          <>
            <Words>at most</Words>
            <SpanField
              label="Oldest"
              none="any"
              span={rule.oldest ?? none}
              error={problem("oldest")}
              onChange={(oldest) => set({ oldest })}
            />
          </>
        )}
      </Line>
      <Line name="Repeats">
        <Words>the same post again after</Words>
        <NumberField
          label="Days between"
          hideLabel
          className="w-16! text-center"
          value={rule.apart ?? 0}
          error={problem("apart")}
          onChange={(apart) => set({ apart })}
        />
        <Words>days{share ? ", at most" : ""}</Words>
        {share && (
          <>
            <OptionalNumberField
              label="Most outings of one post"
              hideLabel
              className="w-16! text-center"
              placeholder="any"
              value={rule.most || undefined}
              error={problem("most")}
              onChange={(most) => set({ most: most ?? 0 })}
            />
            <Words>times</Words>
          </>
        )}
      </Line>
      <Line name="Order">
        <div className="w-60">
          <Choice
            label="Order"
            value={rule.order ?? "longest"}
            options={share ? shareOrders : againOrders}
            onChange={(order) => set({ order })}
          />
        </div>
        <NumberField
          label="Posts at a time"
          hideLabel
          className="w-16! text-center"
          value={rule.atATime ?? 1}
          error={problem("atATime")}
          onChange={(atATime) => set({ atATime })}
        />
        <Words>{share ? "posts a turn" : "at a time"}</Words>
        {share && (
          <span className="pt-1.5">
            <Tick label="Once round, then stop" on={rule.once ?? false} onChange={(once) => set({ once })} />
          </span>
        )}
      </Line>
      {share && (
        <>
          <Line name="Posts">
            <span className="pt-1.5">
              <Tick
                label="Only posts that I pick by hand"
                on={rule.picked ?? false}
                onChange={(picked) => set({ picked })}
              />
            </span>
            {rule.picked && <PickedPosts site={site} id={id} />}
          </Line>
          <Line name="Dates">
            <Words>from</Words>
            <div className="w-40">
              <DateField
                label="From"
                hideLabel
                optional
                placeholder="any"
                value={rule.starts ?? ""}
                error={problem("starts")}
                onChange={(starts) => set({ starts })}
              />
            </div>
            <Words>until</Words>
            <div className="w-40">
              <DateField
                label="Until"
                hideLabel
                optional
                placeholder="any"
                value={rule.ends ?? ""}
                error={problem("ends")}
                onChange={(ends) => set({ ends })}
              />
            </div>
          </Line>
        </>
      )}
      <Line
        name="Active hours"
        hint="With no weekday chosen, every day counts. Anything outside these hours moves to the next minute inside them."
      >
        <WeekdayButtons chosen={rule.weekdays ?? []} onChange={(weekdays) => set({ weekdays })} />
        <div className="w-32">
          <Choice
            label="Active hours"
            value={allDay ? "all day" : "between"}
            options={hours}
            onChange={(kind) =>
              set(kind === "between" ? { from: "08:00", to: "22:00" } : { from: "00:00", to: "00:00" })
            }
          />
        </div>
        {!allDay && (
          <>
            <TimeField
              label="From"
              hideLabel
              value={rule.from ?? "00:00"}
              error={problem("from")}
              onChange={(from) => set({ from })}
            />
            <Words>and</Words>
            <TimeField
              label="To"
              hideLabel
              value={rule.to ?? "00:00"}
              error={problem("to")}
              onChange={(to) => set({ to })}
            />
          </>
        )}
      </Line>
    </>
  );
}
