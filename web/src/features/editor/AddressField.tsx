import type { Autosave, State } from "./autosave";
import { InlineField } from "./InlineField";

type Props = { site: string; autosave: Autosave; state: State };

/** The post's address. Left empty, it is made from the title when it is needed. */
export function AddressField({ site, autosave, state }: Props) {
  const { fields, errors, post } = state;
  const seen = post.status === "published" || post.status === "archived";
  return (
    <InlineField
      label="Address"
      before={`/blog/${site}/`}
      value={fields.slug}
      placeholder="made from the title"
      error={errors.slug}
      onChange={(slug) => autosave.edit({ slug })}
    >
      {seen && !errors.slug && fields.slug !== post.slug && (
        <p>The old address will redirect to the new one.</p>
      )}
    </InlineField>
  );
}
