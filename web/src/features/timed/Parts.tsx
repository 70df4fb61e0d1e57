import { Trash2 } from "lucide-react";
import { useState } from "react";
import { AddButton } from "../../ui/AddButton";
import { IconButton } from "../../ui/Button";
import { inputLook } from "../../ui/Field";
import { Fold } from "../../ui/Fold";
import { TextArea } from "../../ui/TextArea";
import { useTopics } from "../blog/topics";
import { CategoryField } from "../editor/CategoryField";
import { FeaturedField } from "../editor/FeaturedField";
import { TagsField } from "../editor/TagsField";
import type { EditText } from "../revisions/timed";

type Props = {
  site: string;
  text: EditText;
  wrong: (field: string) => string | undefined;
  onChange: (more: Partial<EditText>) => void;
};

/** What a timed edit may change beside title and text. */
export function Parts({ site, text, wrong, onChange }: Props) {
  const topics = useTopics(site);
  const named = Object.entries(text.fields);
  return (
    <div>
      <div className="space-y-3 border-b border-line pb-4">
        <CategoryField
          site={site}
          value={text.categoryId}
          categories={topics.data?.categories ?? []}
          editor
          error={wrong("categoryId")}
          onChange={(categoryId) => onChange({ categoryId })}
        />
        <TagsField
          tags={text.tags}
          known={topics.data?.tagNames ?? []}
          error={wrong("tags")}
          onChange={(tags) => onChange({ tags })}
        />
      </div>
      <Fold title="Featured image" summary={text.featured.alt || (text.featured.address ? "Chosen" : "None")}>
        <FeaturedField
          site={site}
          featured={text.featured}
          error={wrong("featured")}
          onChange={(featured) => onChange({ featured })}
        />
      </Fold>
      <Fold title="Excerpt" summary={text.excerpt || "The beginning of the text"}>
        <TextArea
          label="Excerpt"
          hideLabel
          rows={4}
          value={text.excerpt}
          error={wrong("excerpt")}
          onChange={(e) => onChange({ excerpt: e.target.value })}
        />
      </Fold>
      <Fold
        title="Custom fields"
        summary={named.map(([name, value]) => `${name}: ${value}`).join(" · ") || "None"}
      >
        <CustomFields named={named} onChange={(fields) => onChange({ fields })} />
      </Fold>
    </div>
  );
}

function CustomFields({
  named,
  onChange,
}: {
  named: [string, string][];
  onChange: (fields: Record<string, string>) => void;
}) {
  // A field that has no name yet is kept here until it has one.
  const [rows, setRows] = useState(named);
  function change(next: [string, string][]) {
    setRows(next);
    onChange(Object.fromEntries(next.filter(([name]) => name.trim() !== "")));
  }
  return (
    <>
      {rows.map(([name, value], i) => (
        <div key={i} className="flex gap-1">
          <input
            aria-label="Name of the field"
            placeholder="name"
            className={inputLook}
            value={name}
            onChange={(e) => change(rows.map((f, j) => (j === i ? [e.target.value, f[1]] : f)))}
          />
          <input
            aria-label={`Value of ${name || "the field"}`}
            placeholder="value"
            className={inputLook}
            value={value}
            onChange={(e) => change(rows.map((f, j) => (j === i ? [f[0], e.target.value] : f)))}
          />
          <IconButton
            label={`Remove the field ${name}`}
            onClick={() => change(rows.filter((_, j) => j !== i))}
          >
            <Trash2 size={14} />
          </IconButton>
        </div>
      ))}
      <AddButton look="quiet" onAdd={() => setRows([...rows, ["", ""]])}>
        Add a field
      </AddButton>
    </>
  );
}
