import { useState } from "react";
import { answer, api } from "../../api/client";
import { Button } from "../../ui/Button";
import { useSay } from "../../ui/toast";
import type { Autosave, Fields, Post, State } from "./autosave";

const names: Record<keyof Fields, string> = {
  title: "title",
  body: "text",
  excerpt: "excerpt",
  link: "link",
  slug: "address",
  kind: "post or page",
  categoryId: "category",
  tags: "tags",
  authorId: "author",
  featured: "featured image",
  onTop: "on top",
  commentsOpen: "comments",
  evergreen: "evergreen",
  neverExpires: "never expires",
  expires: "expiry",
  fields: "custom fields",
};

type Props = { site: string; autosave: Autosave; state: State; theirs: Post };

/** Two versions of one post: both are shown, and nothing is lost whichever is chosen. */
export function Conflict({ site, autosave, state, theirs }: Props) {
  const [busy, setBusy] = useState(false);
  const say = useSay();
  const differing = autosave.differing();

  async function setMineAside() {
    setBusy(true);
    try {
      const { title, body, tags, categoryId, excerpt } = state.fields;
      const kept = await answer(
        api.POST("/api/v1/sites/{site}/posts", {
          params: { path: { site } },
          body: { title: `${title || "Untitled"} (my version)`, body, tags, categoryId, excerpt },
        }),
      );
      autosave.resolve("theirs");
      say.done(`Yours is now a separate draft: “${kept.title}”.`);
    } catch (error) {
      say.trouble(error);
      setBusy(false);
    }
  }

  return (
    <section role="alert" className="my-2 rounded-md border border-madder bg-sheet p-3">
      <h2 className="text-base font-semibold text-madder">
        Somebody else saved this post while you were writing.
      </h2>
      <p className="mt-1 text-sm text-soft">
        Both versions are kept until you choose. They differ in:{" "}
        {differing.map((n) => names[n]).join(", ") || "nothing that you wrote"}.
      </p>
      <div className="my-2 grid gap-3 text-sm md:grid-cols-2">
        <Version name="Yours" title={state.fields.title} body={state.fields.body} />
        <Version name="Theirs" title={theirs.title} body={theirs.body} />
      </div>
      <div className="flex flex-wrap gap-2">
        <Button disabled={busy} onClick={() => autosave.resolve("mine")}>
          Keep mine
        </Button>
        <Button disabled={busy} onClick={() => void setMineAside()}>
          Use theirs, and keep mine as a separate draft
        </Button>
        <Button look="quiet" disabled={busy} onClick={() => autosave.resolve("theirs")}>
          Use theirs, discard mine
        </Button>
      </div>
    </section>
  );
}

function Version({ name, title, body }: { name: string; title: string; body: string }) {
  return (
    <div className="min-w-0">
      <h3 className="mb-1 text-xs text-soft">{name}</h3>
      {/* Long texts scroll, by keys too. */}
      <div
        role="region"
        aria-label={`${name}, as it stands`}
        // eslint-disable-next-line jsx-a11y/no-noninteractive-tabindex
        tabIndex={0}
        className="max-h-56 overflow-y-auto rounded-md bg-sunk px-3 py-2"
      >
        <p className="font-semibold">{title || "Untitled"}</p>
        <p className="mt-1 whitespace-pre-wrap">{body || "No text."}</p>
      </div>
    </div>
  );
}
