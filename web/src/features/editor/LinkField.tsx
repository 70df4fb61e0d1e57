import { TextArea } from "../../ui/TextArea";
import type { Autosave, State } from "./autosave";
import { InlineField } from "./InlineField";

/** Where a link item leads. */
export function LinkField({ autosave, state }: { autosave: Autosave; state: State }) {
  return (
    <InlineField
      label="Link"
      before="Leads to"
      value={state.fields.link}
      placeholder="https://…"
      error={state.errors.link}
      onChange={(link) => autosave.edit({ link })}
    />
  );
}

/** What messages say of a link item beside its title. */
export function LinkItemText({ autosave, state }: { autosave: Autosave; state: State }) {
  const { fields, errors } = state;
  return (
    <div className="mt-4 max-w-160">
      <TextArea
        label="Excerpt"
        rows={4}
        value={fields.excerpt}
        error={errors.excerpt}
        hint={
          fields.body
            ? "What messages show for {excerpt}. Where it is empty, they take the beginning of the text that came from its source."
            : "What messages show for {excerpt}."
        }
        onChange={(e) => autosave.edit({ excerpt: e.target.value })}
      />
      {fields.body && <p className="mt-3 line-clamp-6 text-sm wrap-anywhere text-soft">{fields.body}</p>}
    </div>
  );
}
