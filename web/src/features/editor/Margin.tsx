import { ExternalLink } from "lucide-react";
import { useState } from "react";
import { Link } from "react-router";
import { answer, api } from "../../api/client";
import { Button } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { clock, longDate } from "../../ui/civil";
import { Field } from "../../ui/Field";
import { useSay } from "../../ui/toast";
import type { Autosave, State } from "./autosave";
import { useTopics } from "./editor";
import { CareForm } from "./CareForm";
import { TagsField } from "./TagsField";

type Props = { site: string; autosave: Autosave; state: State };

/** Beside the text: where the post stands, and what it is sorted under. */
export function Margin({ site, autosave, state }: Props) {
  const topics = useTopics(site);
  const categories = [
    { value: 0, name: "None" },
    ...(topics.data?.categories ?? []).map((c) => ({ value: c.id, name: c.name })),
  ];
  return (
    <aside aria-label="About the post" className="w-64 shrink-0 space-y-5 pt-1">
      <Standing site={site} autosave={autosave} state={state} />
      <Field label="Category" error={state.errors.categoryId}>
        <Choice
          label="Category"
          value={state.fields.categoryId}
          options={categories}
          onChange={(categoryId) => autosave.edit({ categoryId })}
        />
      </Field>
      <TagsField
        tags={state.fields.tags}
        known={topics.data?.tags ?? []}
        error={state.errors.tags}
        onChange={(tags) => autosave.edit({ tags })}
      />
      <CareForm site={site} autosave={autosave} post={state.post} />
      <p className="text-xs text-faint">By {state.post.author}</p>
    </aside>
  );
}

function Standing({ site, autosave, state }: Props) {
  const { post } = state;
  const almanac = `/${site}?post=${post.id}`;
  return (
    <section aria-label="Where it stands" className="rounded-md border border-line bg-sheet p-3 text-sm">
      {post.status === "draft" && !post.cleared && (
        <>
          <p className="mb-2 text-soft">
            A draft. Clear it when it is written: it goes to the end of the shelf, and a slot is proposed for
            it.
          </p>
          <DeedButton site={site} autosave={autosave} deed="clear" done="It is on the shelf." look="main">
            Clear for the shelf
          </DeedButton>
        </>
      )}
      {post.cleared && (
        <>
          <p className="mb-2">
            Cleared, on the shelf.{" "}
            <Link to={almanac} className="underline underline-offset-2">
              See its proposed slot
            </Link>
          </p>
          <DeedButton site={site} autosave={autosave} deed="unclear" done="It is off the shelf.">
            Take off the shelf
          </DeedButton>
        </>
      )}
      {post.when && (
        <p>
          {post.status === "published" || post.status === "archived" ? "Out since " : "Comes out on "}
          {longDate(post.when.date)}, <span className="font-semibold">{clock(post.when.minute)}</span>.{" "}
          <Link to={almanac} className="underline underline-offset-2">
            On the tape
          </Link>
        </p>
      )}
      {post.firstPublished && <p>First published on {longDate(post.firstPublished.date)}.</p>}
      {post.status === "archived" && <p className="text-away">Archived: {post.care.notice}</p>}
      {post.status === "binned" && <p className="text-away">In the bin. Undo it from the logbook.</p>}
      {post.address && (
        <a
          href={post.address}
          target="_blank"
          rel="noreferrer"
          className="mt-2 inline-flex items-center gap-1 underline underline-offset-2"
        >
          Read on the blog <ExternalLink size={12} aria-label="opens in a new tab" />
        </a>
      )}
    </section>
  );
}

type DeedProps = Omit<Props, "state"> & {
  deed: "clear" | "unclear";
  done: string;
  look?: "main";
  children: string;
};

/** Saves what waits, then does the deed to the version that was saved. */
function DeedButton({ site, autosave, deed, done, look, children }: DeedProps) {
  const say = useSay();
  const [busy, setBusy] = useState(false);
  async function go() {
    setBusy(true);
    try {
      if (!(await autosave.flush()))
        throw new Error("First mend what is marked, so that all of it is saved.");
      const { id, version } = autosave.snapshot().post;
      const request = { params: { path: { site, id } }, body: { version } };
      autosave.adopt(
        await answer(
          deed === "clear"
            ? api.POST("/api/v1/sites/{site}/posts/{id}/clear", request)
            : api.POST("/api/v1/sites/{site}/posts/{id}/unclear", request),
        ),
      );
      say.done(done);
    } catch (error) {
      say.trouble(error);
    } finally {
      setBusy(false);
    }
  }
  return (
    <Button {...(look ? { look } : {})} disabled={busy} onClick={() => void go()} className="w-full">
      {children}
    </Button>
  );
}
