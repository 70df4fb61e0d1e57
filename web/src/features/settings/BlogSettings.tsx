import { useNavigate } from "react-router";
import { Refusal } from "../../api/client";
import { Button } from "../../ui/Button";
import { TextField } from "../../ui/Field";
import { Part } from "../../ui/Part";
import { SaveButton } from "../../ui/SaveButton";
import { Trouble, Warning } from "../../ui/Trouble";
import { afterSave, Unsaved } from "../../ui/Unsaved";
import { Waiting } from "../../ui/Waiting";
import { useTell } from "../logbook/useTell";
import { useOwner } from "../session/session";
import { blogSchema, useBlog, useSaveBlog, type Blog } from "./blog";
import { EndBlog } from "./EndBlog";
import { ReadingFields } from "./ReadingFields";
import { ShownPicture } from "../pictures/ShownPicture";
import { MovedOn } from "../../ui/MovedOn";
import { useKept } from "../../ui/useKept";

/** What the blog is called, and where readers find it. */
export function BlogSettings({ site }: { site: string }) {
  const blog = useBlog(site);
  const owner = useOwner(site);
  if (blog.isPending) return <Waiting what="the settings" />;
  if (blog.error) return <Trouble error={blog.error} retry={() => void blog.refetch()} />;
  return (
    <>
      <BlogForm key={site} site={site} saved={blog.data} owner={owner} />
      {owner && <EndBlog site={site} blog={blog.data} />}
    </>
  );
}

function BlogForm({ site, saved, owner }: { site: string; saved: Blog; owner: boolean }) {
  const form = useKept(blogSchema, saved);
  const { values: blog, set, changed } = form;
  const save = useSaveBlog(site);
  const tell = useTell(site);
  const navigate = useNavigate();
  const refusal = save.error instanceof Refusal ? save.error : undefined;
  const error = (field: string) => form.problem(field) ?? refusal?.field(field);
  async function store(next: Blog) {
    const now = await save.mutateAsync(next);
    tell("Blog saved.");
    if (now.slug !== site) void navigate(`/${now.slug}/settings/blog`, { replace: true, state: afterSave });
    return now;
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
              onSave={() => form.save(store)}
            />
          </div>
        )}
      </div>
      {form.movedOn && <MovedOn what="the blog" onTake={() => form.take(saved)} />}
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
        <div className="max-w-md space-y-3">
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
          <TextField
            label="Host name of its own"
            placeholder="none"
            readOnly={!owner}
            spellCheck={false}
            autoCapitalize="none"
            hint={
              saved.host
                ? `Links, feeds and messages name ${saved.address ?? ""}`
                : "Such as notes.example. First point that name at this server; the guide says how."
            }
            value={blog.host}
            error={error("host")}
            onChange={(e) => set({ host: e.target.value })}
          />
        </div>
      </Part>
      <ReadingFields blog={blog} owner={owner} error={error} set={set} />
      <Part title="Pictures" hint="Both are chosen from the blog’s pictures.">
        <div className="grid max-w-md gap-4 sm:grid-cols-2">
          <ShownPicture
            site={site}
            label="Logo"
            hint="In place of the title, up to 288 pixels wide."
            picture={blog.logo}
            owner={owner}
            error={error("logo")}
            onChange={(logo) => set({ logo })}
          />
          <ShownPicture
            site={site}
            label="Icon"
            hint="A square one, for browser tabs and home screens."
            picture={blog.icon}
            owner={owner}
            error={error("icon")}
            onChange={(icon) => set({ icon })}
          />
        </div>
      </Part>
    </>
  );
}
