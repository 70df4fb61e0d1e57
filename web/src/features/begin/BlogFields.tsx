import { useState } from "react";
import { Choice } from "../../ui/Choice";
import { Field, TextField } from "../../ui/Field";
import { ZoneField } from "../settings/ZoneField";
import type { NewBlogForm } from "./begin";

type Props = { form: NewBlogForm; error: (field: string) => string | undefined };

/** What a new blog is called, where it is read, and by which clocks it lives. */
export function BlogFields({ form: { blog, begin, change }, error }: Props) {
  const [now] = useState(() => Date.now());
  return (
    <>
      <TextField
        label="Title"
        required
        autoFocus
        dir="auto"
        value={blog.title}
        error={error("title")}
        onChange={(e) => change({ title: e.target.value })}
      />
      <TextField
        label="Tagline"
        placeholder="none"
        hint="A line under the title, for readers."
        dir="auto"
        value={blog.tagline ?? ""}
        error={error("tagline")}
        onChange={(e) => change({ tagline: e.target.value })}
      />
      <TextField
        label="Name in the address"
        required
        spellCheck={false}
        autoCapitalize="none"
        hint={`Readers find it at ${window.location.host}/blog/${blog.slug || "…"}/`}
        value={blog.slug}
        error={error("slug")}
        onChange={(e) => change({ slug: e.target.value })}
      />
      <ZoneField
        hint="Every time in the plan is a time there."
        value={blog.zone}
        error={error("zone")}
        now={now}
        shown
        onChange={(zone) => change({ zone })}
      />
      <Field label="Language of your readers" error={error("language")}>
        <Choice
          label="Language of your readers"
          value={blog.language}
          options={(begin?.languages ?? []).map((l) => ({ value: l.tag, name: l.name }))}
          onChange={(language) => change({ language })}
        />
      </Field>
    </>
  );
}
