import { Choice } from "../../ui/Choice";
import { Field, TextField } from "../../ui/Field";
import { NumberField } from "../../ui/NumberField";
import { Part } from "../../ui/Part";
import type { Blog } from "./blog";

type Props = {
  blog: Blog;
  owner: boolean;
  error: (field: string) => string | undefined;
  set: (change: Partial<Blog>) => void;
};

/** The server's date styles, in its order. */
const dateStyles = ["long", "full", "medium", "numeric"] as const;

/** How readers read the blog. */
export function ReadingFields({ blog, owner, error, set }: Props) {
  return (
    <Part title="Readers" hint="Browsers and search engines are told the language.">
      <div className="max-w-md space-y-3">
        <Field label="Language" error={error("language")}>
          <Choice
            label="Language"
            value={blog.language}
            options={(blog.languages ?? []).map((l) => ({ value: l.tag, name: l.name }))}
            onChange={(language) => owner && set({ language })}
          />
        </Field>
        <Field label="Dates" error={error("dateStyle")} hint="Written in the saved language.">
          <Choice
            label="Dates"
            value={blog.dateStyle}
            options={dateStyles.map((value, i) => ({ value, name: blog.dates?.[i] ?? value }))}
            onChange={(dateStyle) => owner && set({ dateStyle })}
          />
        </Field>
        <Field label="Front page" error={error("frontPage")}>
          <Choice
            label="Front page"
            value={blog.frontPage}
            options={[
              { value: 0, name: "The latest posts" },
              ...(blog.pages ?? []).map((p) => ({ value: p.id, name: p.title || "Untitled" })),
            ]}
            onChange={(frontPage) => owner && set({ frontPage })}
          />
        </Field>
        <NumberField
          label="Posts on a page"
          readOnly={!owner}
          value={blog.postsAPage}
          error={error("postsAPage")}
          onChange={(postsAPage) => set({ postsAPage })}
        />
        <Field label="Feeds have" error={error("feeds")}>
          <Choice
            label="Feeds have"
            value={blog.feeds}
            options={[
              { value: "whole", name: "whole posts" },
              { value: "excerpt", name: "the excerpt, and a link to the post" },
            ]}
            onChange={(feeds) => owner && set({ feeds })}
          />
        </Field>
        <TextField
          label="Line at the foot of every page"
          placeholder="none"
          dir="auto"
          readOnly={!owner}
          value={blog.footer}
          error={error("footer")}
          onChange={(e) => set({ footer: e.target.value })}
        />
      </div>
    </Part>
  );
}
