import type { ComponentProps } from "react";
import { Trash2 } from "lucide-react";
import { AddButton } from "../../ui/AddButton";
import { IconButton } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { inputLook, TextField } from "../../ui/Field";
import { Tick } from "../../ui/Tick";
import { Line, Words } from "./Line";
import type { RuleBody, Rules } from "./rules";
import { ValuesField } from "./ValuesField";

type Props = {
  rule: RuleBody;
  channels: Rules["channels"];
  placeholders: string[];
  problem: (field: string) => string | undefined;
  set: (change: Partial<RuleBody>) => void;
};

const sources = [
  { value: "category", name: "the category" },
  { value: "tags", name: "the tags" },
  { value: "list", name: "a fixed list" },
  { value: "field", name: "a custom field" },
];
const styles = [
  { value: "joined", name: "#SkyGuide" },
  { value: "lower", name: "#skyguide" },
  { value: "underlined", name: "#sky_guide" },
];

/** Where messages go, and what they say. */
export function MessageFields({ rule, channels, placeholders, problem, set }: Props) {
  const wordings = rule.wordings ?? [];
  const tags = { sources: [], list: [], field: "", style: "joined", ...rule.hashtags };
  const setTags = (change: Partial<typeof tags>) => set({ hashtags: { ...tags, ...change } });
  const params = rule.params ?? [];
  const setParam = (i: number, param: (typeof params)[number] | undefined) =>
    set({ params: params.flatMap((p, j) => (j !== i ? [p] : param ? [param] : [])) });
  return (
    <>
      <Line name="Channel">
        <div className="w-44">
          <Choice
            label="Channel"
            value={rule.channelId ?? 0}
            options={channels.map((c) => ({ value: c.id, name: c.name }))}
            onChange={(channelId) => set({ channelId })}
          />
        </div>
        {problem("channel") && <Words>{problem("channel")}</Words>}
      </Line>
      <Line
        name="Wordings"
        hint={`They take turns. Placeholders: ${placeholders.map((p) => `{${p}}`).join(" ")} {field:NAME}`}
      >
        <ol className="w-full space-y-1.5">
          {wordings.map((text, i) => (
            // Wordings take turns by their place; they have no other name.
            <li key={i}>
              <div className="flex items-start gap-1">
                <textarea
                  aria-label={`Wording ${i + 1}`}
                  aria-invalid={Boolean(problem(`wordings[${i}]`))}
                  rows={2}
                  value={text}
                  onChange={(e) => set({ wordings: wordings.map((w, j) => (j === i ? e.target.value : w)) })}
                  className={`${inputLook} h-auto! resize-y py-1`}
                />
                <IconButton
                  label={`Remove wording ${i + 1}`}
                  onClick={() => set({ wordings: wordings.filter((_, j) => j !== i) })}
                >
                  <Trash2 size={15} />
                </IconButton>
              </div>
              {problem(`wordings[${i}]`) && (
                <p role="alert" className="mt-0.5 text-xs text-madder">
                  {problem(`wordings[${i}]`)}
                </p>
              )}
            </li>
          ))}
        </ol>
        {problem("wordings") && <Words>{problem("wordings")}</Words>}
        <AddButton onAdd={() => set({ wordings: [...wordings, "{title} {link}"] })}>Add a wording</AddButton>
      </Line>
      <Line name="Hashtags">
        {sources.map((s) => (
          <LineTick
            key={s.value}
            label={s.name}
            on={tags.sources.includes(s.value)}
            onChange={(on) =>
              setTags({
                sources: on ? [...tags.sources, s.value] : tags.sources.filter((v) => v !== s.value),
              })
            }
          />
        ))}
        <div className="w-36">
          <Choice
            label="How they are written"
            value={tags.style || "joined"}
            options={styles}
            onChange={(style) => setTags({ style })}
          />
        </div>
        {tags.sources.includes("list") && (
          <ValuesField
            label="Fixed hashtags"
            values={tags.list}
            known={[]}
            free
            error={problem("hashtags.list")}
            onChange={(list) => setTags({ list })}
          />
        )}
        {tags.sources.includes("field") && (
          <div className="w-40">
            <TextField
              label="Field that holds hashtags"
              hideLabel
              placeholder="field"
              value={tags.field}
              error={problem("hashtags.field")}
              onChange={(e) => setTags({ field: e.target.value })}
            />
          </div>
        )}
      </Line>
      <Line name="Links">
        <LineTick
          label="Short links, which count clicks"
          on={rule.short ?? false}
          onChange={(short) => set({ short })}
        />
        {params.map((p, i) => (
          // Parameters are told apart by their place while their names are being written.
          <div key={i} className="flex items-start gap-1">
            <div className="w-32">
              <TextField
                label={`Link parameter ${i + 1}`}
                hideLabel
                placeholder="utm_source"
                value={p.name}
                onChange={(e) => setParam(i, { ...p, name: e.target.value })}
              />
            </div>
            <Words>=</Words>
            <div className="w-32">
              <TextField
                label={`Value of link parameter ${i + 1}`}
                hideLabel
                value={p.value}
                onChange={(e) => setParam(i, { ...p, value: e.target.value })}
              />
            </div>
            <IconButton label={`Remove link parameter ${i + 1}`} onClick={() => setParam(i, undefined)}>
              <Trash2 size={15} />
            </IconButton>
          </div>
        ))}
        <AddButton look="quiet" onAdd={() => set({ params: [...params, { name: "", value: "" }] })}>
          Add a parameter
        </AddButton>
        {problem("params") && (
          <p role="alert" className="w-full text-xs text-madder">
            {problem("params")}
          </p>
        )}
      </Line>
    </>
  );
}

/** A box to tick, on the same line as other controls. */
function LineTick(props: ComponentProps<typeof Tick>) {
  return (
    <span className="pt-1.5">
      <Tick {...props} />
    </span>
  );
}
