import { TextArea } from "../../ui/TextArea";
import type { Autosave, State } from "./autosave";

/** Where a link item leads. */
export function LinkField({ autosave, state }: { autosave: Autosave; state: State }) {
  const { fields, errors } = state;
  return (
    <div className="text-sm text-soft">
      <label className="flex min-w-0 items-center gap-2">
        <span className="shrink-0">Leads to</span>
        <input
          type="url"
          aria-label="Link"
          aria-invalid={Boolean(errors.link)}
          aria-describedby={errors.link ? "link-error" : undefined}
          value={fields.link}
          placeholder="https://…"
          onChange={(e) => autosave.edit({ link: e.target.value })}
          className="min-w-0 flex-1 rounded-sm border border-transparent bg-transparent px-1 text-ink placeholder:text-faint hover:border-line aria-invalid:border-madder"
        />
      </label>
      {errors.link && (
        <p id="link-error" role="alert" className="text-madder">
          {errors.link}
        </p>
      )}
    </div>
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
