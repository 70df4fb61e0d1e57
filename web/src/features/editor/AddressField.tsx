import type { Autosave, State } from "./autosave";

type Props = { site: string; autosave: Autosave; state: State };

/** The post's address. Left empty, it is made from the title when it is needed. */
export function AddressField({ site, autosave, state }: Props) {
  const { fields, errors, post } = state;
  const seen = post.status === "published" || post.status === "archived";
  return (
    <div className="text-sm text-soft">
      <label className="flex min-w-0 items-center">
        <span className="shrink-0">/blog/{site}/</span>
        <input
          aria-label="Address"
          aria-invalid={Boolean(errors.slug)}
          aria-describedby={errors.slug ? "slug-error" : undefined}
          value={fields.slug}
          placeholder="made from the title"
          onChange={(e) => autosave.edit({ slug: e.target.value })}
          className="min-w-0 flex-1 rounded-sm border border-transparent bg-transparent px-1 text-ink placeholder:text-faint hover:border-line aria-invalid:border-madder"
        />
      </label>
      {errors.slug && (
        <p id="slug-error" role="alert" className="text-madder">
          {errors.slug}
        </p>
      )}
      {seen && !errors.slug && fields.slug !== post.slug && (
        <p>The old address will redirect to the new one.</p>
      )}
    </div>
  );
}
