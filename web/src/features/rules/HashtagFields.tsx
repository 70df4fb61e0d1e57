import { Choice } from "../../ui/Choice";
import { TextField } from "../../ui/Field";
import { Tick } from "../../ui/Tick";
import { Line } from "./Line";
import type { RuleBody } from "./rules";
import { ValuesField } from "./ValuesField";

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

type Props = {
  rule: RuleBody;
  problem: (field: string) => string | undefined;
  set: (change: Partial<RuleBody>) => void;
};

/** Where a rule's hashtags come from, and how they are written. */
export function HashtagFields({ rule, problem, set }: Props) {
  const tags = { sources: [], list: [], field: "", style: "joined", ...rule.hashtags };
  const setTags = (change: Partial<typeof tags>) => set({ hashtags: { ...tags, ...change } });
  return (
    <Line name="Hashtags">
      {sources.map((s) => (
        <span key={s.value} className="pt-1.5">
          <Tick
            label={s.name}
            on={tags.sources.includes(s.value)}
            onChange={(on) =>
              setTags({
                sources: on ? [...tags.sources, s.value] : tags.sources.filter((v) => v !== s.value),
              })
            }
          />
        </span>
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
  );
}
