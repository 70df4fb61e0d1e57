import { Fold } from "../../ui/Fold";
import { TextArea } from "../../ui/TextArea";
import { useTopics } from "../blog/topics";
import { CategoryField } from "../editor/CategoryField";
import { CustomFields } from "../editor/CustomFields";
import { FeaturedField } from "../editor/FeaturedField";
import { TagsField } from "../editor/TagsField";
import type { EditText } from "../revisions/timed";

type Props = {
  site: string;
  text: EditText;
  /** Of what was begun with: with another one, all fields are shown anew. */
  version: number;
  wrong: (field: string) => string | undefined;
  onChange: (more: Partial<EditText>) => void;
};

/** What a timed edit may change beside title and text. */
export function Parts({ site, text, version, wrong, onChange }: Props) {
  const topics = useTopics(site);
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
        summary={
          Object.entries(text.fields)
            .map(([name, value]) => `${name}: ${value}`)
            .join(" · ") || "None"
        }
      >
        <CustomFields
          key={version}
          fields={text.fields}
          error={wrong("fields")}
          onChange={(fields) => onChange({ fields })}
        />
      </Fold>
    </div>
  );
}
