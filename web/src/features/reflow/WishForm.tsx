import type { Refusal } from "../../api/client";
import { Choice } from "../../ui/Choice";
import { DateField } from "../../ui/DateField";
import { Field } from "../../ui/Field";
import { NumberField } from "../../ui/NumberField";
import { Tick } from "../../ui/Tick";
import { useSay } from "../../ui/toast";
import { newPattern, type Wish } from "../plan/reflow";
import { PatternFields } from "./PatternFields";

type Props = {
  site: string;
  wish: Wish;
  choices: { id: number; title: string }[];
  refusal: Refusal | undefined;
  onChange: (change: Partial<Wish>) => void;
};

/** What is wished: the fields that its kind has. */
export function WishForm(props: Props) {
  const { site, wish, refusal, onChange } = props;
  const say = useSay();
  const set = (field: "start" | "end") => (date: string) => onChange({ [field]: date || undefined });
  const startName = wish.do === "place" ? "Start from" : wish.do === "room" ? "Not before" : "From";
  return (
    <div className="mb-4 space-y-3 border-b border-line pb-4">
      <div className="flex flex-wrap items-start gap-3">
        {wish.do === "room" && <OnePost {...props} />}
        <div className="w-44">
          <DateField
            label={startName}
            optional
            placeholder="today"
            value={wish.start ?? ""}
            error={refusal?.field("start")}
            {...(wish.do === "place" ? { hint: "A past date publishes at once, backdated." } : {})}
            onChange={set("start")}
          />
        </div>
        {(wish.do === "shift" || wish.do === "unplace" || wish.do === "rest") && (
          <div className="w-44">
            <DateField
              label="To"
              optional
              placeholder="the end of the plan"
              value={wish.end ?? ""}
              error={refusal?.field("end")}
              onChange={set("end")}
            />
          </div>
        )}
        {wish.do === "shift" && (
          <div className="w-36">
            <NumberField
              label="By how many days"
              hint="Below 0 moves them earlier."
              value={wish.days ?? 0}
              error={refusal?.field("days")}
              onChange={(days) => onChange({ days })}
            />
          </div>
        )}
        {wish.do === "place" && (
          <>
            <div className="w-44">
              <Field label="In order">
                <Choice
                  label="In order"
                  value={wish.order ?? "hand"}
                  options={orders}
                  onChange={(order) => onChange({ order })}
                />
              </Field>
            </div>
            <div className="w-56">
              <Field label="Times from">
                <Choice
                  label="Times from"
                  value={wish.pattern ? "pattern" : "rhythm"}
                  options={[
                    { value: "rhythm", name: "the rhythm" },
                    { value: "pattern", name: "a pattern, just this once" },
                  ]}
                  onChange={(by) =>
                    by === "pattern"
                      ? void newPattern(site).then((pattern) => onChange({ pattern }), say.trouble)
                      : onChange({ pattern: undefined })
                  }
                />
              </Field>
            </div>
          </>
        )}
      </div>
      {wish.pattern && (
        <PatternFields
          pattern={wish.pattern}
          wrong={(field) => refusal?.field(`pattern.${field}`)}
          onChange={(pattern) => onChange({ pattern })}
        />
      )}
      {wish.do === "place" && <Drafts {...props} />}
    </div>
  );
}

const orders = [
  { value: "hand" as const, name: "As they are listed" },
  { value: "oldest" as const, name: "Oldest first" },
  { value: "newest" as const, name: "Newest first" },
  { value: "shuffled" as const, name: "Shuffled" },
  { value: "categories" as const, name: "A category in turn" },
];

function OnePost({ wish, choices, onChange }: Props) {
  const options = choices.map((c) => ({ value: c.id, name: c.title || "Untitled" }));
  return (
    <div className="w-72">
      <Field label="The post to put in">
        <Choice
          label="The post to put in"
          value={wish.posts?.[0] ?? 0}
          options={options}
          onChange={(id) => onChange({ posts: [id] })}
        />
      </Field>
    </div>
  );
}

function Drafts({ wish, choices, onChange }: Props) {
  const chosen = wish.posts ?? [];
  if (choices.length === 0) return null;
  const all = chosen.length === choices.length;
  return (
    <details>
      <summary className="text-sm text-soft">
        {all ? `All ${choices.length} drafts` : `${chosen.length} of ${choices.length} drafts`}
      </summary>
      <div className="mt-2 max-h-44 overflow-y-auto rounded-md border border-line px-3 py-2">
        <Tick
          label="All of them"
          on={all}
          onChange={(on) => onChange({ posts: on ? choices.map((c) => c.id) : [] })}
        />
        <ul className="mt-1 space-y-1">
          {choices.map((c) => (
            <li key={c.id}>
              <Tick
                label={c.title || "Untitled"}
                on={chosen.includes(c.id)}
                onChange={(on) =>
                  onChange({
                    posts: choices
                      .map((one) => one.id)
                      .filter((id) => (id === c.id ? on : chosen.includes(id))),
                  })
                }
              />
            </li>
          ))}
        </ul>
      </div>
    </details>
  );
}
