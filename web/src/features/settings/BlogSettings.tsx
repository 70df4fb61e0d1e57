import { useNavigate } from "react-router";
import { Refusal } from "../../api/client";
import { Button } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { Field, TextField } from "../../ui/Field";
import { NumberField } from "../../ui/NumberField";
import { Part } from "../../ui/Part";
import { SaveButton } from "../../ui/SaveButton";
import { Trouble, Warning } from "../../ui/Trouble";
import { afterSave, Unsaved } from "../../ui/Unsaved";
import { useFormOf } from "../../ui/useFormOf";
import { Waiting } from "../../ui/Waiting";
import { useTell } from "../logbook/useTell";
import { useSession } from "../session/session";
import { blogSchema, useBlog, useSaveBlog, type Blog } from "./blog";
import { EndBlog } from "./EndBlog";

/** What the blog is called, and where readers find it. */
export function BlogSettings({ site }: { site: string }) {
  const blog = useBlog(site);
  const owner = useSession().data?.sites.find((s) => s.slug === site)?.role === "owner";
  if (blog.isPending) return <Waiting what="the settings" />;
  if (blog.error) return <Trouble error={blog.error} retry={() => void blog.refetch()} />;
  return (
    <>
      <BlogForm key={blog.data.version} site={site} saved={blog.data} owner={owner} />
      {owner && <EndBlog site={site} blog={blog.data} />}
    </>
  );
}

function BlogForm({ site, saved, owner }: { site: string; saved: Blog; owner: boolean }) {
  const form = useFormOf(blogSchema, saved);
  const { values: blog, set, changed } = form;
  const save = useSaveBlog(site);
  const tell = useTell(site);
  const navigate = useNavigate();
  const refusal = save.error instanceof Refusal ? save.error : undefined;
  const error = (field: string) => form.problem(field) ?? refusal?.field(field);
  function store(next: Blog) {
    save.mutateAsync(next).then(
      (now) => {
        tell("Blog saved.");
        if (now.slug !== site)
          void navigate(`/${now.slug}/settings/blog`, { replace: true, state: afterSave });
      },
      () => undefined,
    );
  }
  return (
    <>
      <div className="mb-4 flex items-center gap-3">
        <Unsaved when={changed} what="the blog" />
        <h1 className="font-title text-2xl">Blog</h1>
        {owner && (
          <div className="ml-auto flex gap-2">
            {changed && <Button onClick={() => form.take(saved)}>Discard changes</Button>}
            <SaveButton
              name="Save blog"
              disabled={!changed || save.isPending}
              onSave={() => form.submit(store)}
            />
          </div>
        )}
      </div>
      {save.error && !refusal?.problem.errors && <Warning>{save.error.message}</Warning>}
      {!owner && <p className="mb-3 text-sm text-soft">Only owners of this blog change these.</p>}
      <Part title="Name" hint="Readers see both at the top of every page.">
        <div className="max-w-md space-y-3">
          <TextField
            label="Title"
            dir="auto"
            readOnly={!owner}
            value={blog.title}
            error={error("title")}
            onChange={(e) => set({ title: e.target.value })}
          />
          <TextField
            label="Tagline"
            placeholder="none"
            dir="auto"
            readOnly={!owner}
            value={blog.tagline}
            error={error("tagline")}
            onChange={(e) => set({ tagline: e.target.value })}
          />
        </div>
      </Part>
      <Part title="Address" hint="After a change, old links lead on to the new address.">
        <div className="max-w-md">
          <TextField
            label="Name in the address"
            readOnly={!owner}
            spellCheck={false}
            autoCapitalize="none"
            hint={`Readers find the blog at ${window.location.host}/blog/${blog.slug || "…"}/`}
            value={blog.slug}
            error={error("slug")}
            onChange={(e) => set({ slug: e.target.value })}
          />
        </div>
      </Part>
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
    </>
  );
}
