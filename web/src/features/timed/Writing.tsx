import { useRef, useState } from "react";
import { LinkSheet } from "../editor/LinkSheet";
import { link } from "../editor/markup";
import { MarkdownText, type TextHandle } from "../editor/MarkdownText";
import { Toolbar } from "../editor/Toolbar";
import { PicturePicker } from "../pictures/PicturePicker";
import { inMarkdown } from "../pictures/pictures";
import type { EditText } from "../revisions/timed";

type Props = {
  site: string;
  text: EditText;
  wrong: (field: string) => string | undefined;
  onChange: (more: Partial<EditText>) => void;
};

/** The title and the text that a timed edit has its post say. */
export function Writing({ site, text, wrong, onChange }: Props) {
  const hand = useRef<TextHandle>(null);
  const [choosing, setChoosing] = useState(false);
  const [linking, setLinking] = useState(false);
  const error = (field: string) =>
    wrong(field) && (
      <p role="alert" className="text-sm text-madder">
        {wrong(field)}
      </p>
    );
  return (
    <>
      <h1 className="sr-only">{text.title || "A timed edit"}</h1>
      <textarea
        aria-label="Title"
        rows={1}
        aria-invalid={Boolean(wrong("title"))}
        placeholder="Title"
        dir="auto"
        value={text.title}
        onChange={(e) => onChange({ title: e.target.value.replaceAll(/\s*\n\s*/g, " ") })}
        onKeyDown={(e) => {
          if (e.key === "Enter") e.preventDefault();
        }}
        className="mt-2 field-sizing-content w-full resize-none rounded-md border border-transparent bg-transparent py-1 font-title text-2xl placeholder:text-faint aria-invalid:border-madder aria-invalid:px-2"
      />
      {error("title")}
      <label className="flex min-w-0 items-center text-sm text-soft">
        <span className="shrink-0">/blog/{site}/</span>
        <input
          aria-label="Address"
          aria-invalid={Boolean(wrong("slug"))}
          value={text.slug}
          onChange={(e) => onChange({ slug: e.target.value })}
          className="min-w-0 flex-1 rounded-sm border border-transparent bg-transparent px-1 text-ink hover:border-line aria-invalid:border-madder"
        />
      </label>
      {error("slug")}
      <div className="mt-2">
        <Toolbar
          disabled={false}
          onChange={(change) => hand.current?.change(change)}
          onLink={() => setLinking(true)}
          onPicture={() => setChoosing(true)}
        />
      </div>
      <div className="mt-2 flex min-h-96 flex-1">
        <div className="flex min-w-0 flex-1 flex-col">
          <MarkdownText
            value={text.body}
            invalid={Boolean(wrong("body"))}
            onChange={(body) => onChange({ body })}
            onFiles={() => setChoosing(true)}
            onLink={() => setLinking(true)}
            handleRef={hand}
          />
        </div>
      </div>
      {error("body")}
      <PicturePicker
        site={site}
        open={choosing}
        onClose={() => setChoosing(false)}
        onChoose={(picture) => {
          setChoosing(false);
          hand.current?.insert(inMarkdown(picture));
        }}
      />
      {linking && (
        <LinkSheet
          site={site}
          onClose={() => setLinking(false)}
          onLink={(address, words) => {
            setLinking(false);
            hand.current?.change(link(address, words));
          }}
        />
      )}
    </>
  );
}
