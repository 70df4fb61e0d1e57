import { InlineField } from "../editor/InlineField";
import { MarkdownText } from "../editor/MarkdownText";
import { useTextTools } from "../editor/TextTools";
import { TitleField } from "../editor/TitleField";
import { Toolbar } from "../editor/Toolbar";
import type { EditText } from "../revisions/timed";

type Props = {
  site: string;
  text: EditText;
  wrong: (field: string) => string | undefined;
  onChange: (more: Partial<EditText>) => void;
};

/** The title and the text that a timed edit has its post say. */
export function Writing({ site, text, wrong, onChange }: Props) {
  const tools = useTextTools(site);
  return (
    <>
      <h1 className="sr-only">{text.title || "A timed edit"}</h1>
      <div className="mt-2">
        <TitleField value={text.title} error={wrong("title")} onChange={(title) => onChange({ title })} />
      </div>
      <InlineField
        label="Address"
        before={`/blog/${site}/`}
        value={text.slug}
        error={wrong("slug")}
        onChange={(slug) => onChange({ slug })}
      />
      <div className="mt-2 flex flex-wrap items-center gap-2">
        <Toolbar disabled={false} {...tools.toolbar} />
        {tools.busy && (
          <p role="status" className="text-sm text-soft">
            Uploading a picture…
          </p>
        )}
      </div>
      <div className="mt-2 flex min-h-96 flex-1">
        <div className="flex min-w-0 flex-1 flex-col">
          <MarkdownText
            value={text.body}
            invalid={Boolean(wrong("body"))}
            onChange={(body) => onChange({ body })}
            {...tools.area}
          />
        </div>
      </div>
      {wrong("body") && (
        <p role="alert" className="mt-1 text-sm text-madder">
          {wrong("body")}
        </p>
      )}
      {tools.sheets}
    </>
  );
}
