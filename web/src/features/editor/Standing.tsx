import { ExternalLink } from "lucide-react";
import { Link } from "react-router";
import { Button } from "../../ui/Button";
import { clock, longDate } from "../../ui/civil";
import type { Autosave, Post, State } from "./autosave";
import { DeleteForGood } from "./DeleteForGood";
import { useDo } from "./deeds";

type Props = { site: string; autosave: Autosave; state: State; editor: boolean };

/** Where the post stands in the plan, and what can be done with it. */
export function Standing({ site, autosave, state, editor }: Props) {
  const { post } = state;
  return (
    <section
      aria-label="Where it stands"
      className="space-y-2 rounded-md border border-line bg-sheet p-3 text-sm"
    >
      <Said site={site} post={post} />
      {editor ? (
        <EditorDeeds site={site} autosave={autosave} post={post} />
      ) : (
        <ContributorDeeds site={site} autosave={autosave} post={post} />
      )}
      {post.address && (
        <a
          href={post.address}
          target="_blank"
          rel="noreferrer"
          className="inline-flex items-center gap-1 underline underline-offset-2"
        >
          Read on the blog <ExternalLink size={12} aria-label="opens in a new tab" />
        </a>
      )}
    </section>
  );
}

function Said({ site, post }: { site: string; post: Post }) {
  const almanac = `/${site}?post=${post.id}`;
  if (post.stage === "draft")
    return (
      <p className="text-soft">
        {post.kind === "page"
          ? "A page that is being written. It does not queue: publish it when it is done."
          : "A draft. Clear it when it is written: it goes to the end of the shelf, and a slot is proposed for it."}
      </p>
    );
  if (post.stage === "handed in") return <p>Handed in by {post.author}, waiting for an editor.</p>;
  if (post.stage === "cleared")
    return (
      <p>
        Cleared, on the shelf.{" "}
        <Link to={almanac} className="underline underline-offset-2">
          See its proposed slot
        </Link>
      </p>
    );
  if (post.stage === "binned")
    return <p className="text-away">In the bin. Readers do not find it; its address stays its own.</p>;
  return (
    <>
      {post.when && (
        <p>
          {post.status === "scheduled" ? "Comes out on " : "Out since "}
          {longDate(post.when.date)}, <span className="font-semibold">{clock(post.when.minute)}</span>.{" "}
          <Link to={almanac} className="underline underline-offset-2">
            On the tape
          </Link>
        </p>
      )}
      {post.firstPublished && <p>First published on {longDate(post.firstPublished.date)}.</p>}
      {post.status === "archived" && <p className="text-away">Archived: {post.notice}</p>}
    </>
  );
}

type DeedsProps = { site: string; autosave: Autosave; post: Post };

function EditorDeeds({ site, autosave, post }: DeedsProps) {
  const { busy, go } = useDo(site, autosave);
  const written = post.stage === "draft" || post.stage === "handed in";
  return (
    <div className="flex flex-wrap gap-2">
      {written && post.kind === "post" && (
        <Button look="main" disabled={busy} onClick={() => void go("clear", "It is on the shelf.")}>
          Clear for the shelf
        </Button>
      )}
      {post.stage === "handed in" && (
        <Button disabled={busy} onClick={() => void go("give back", `Given back to ${post.author}.`)}>
          Give back
        </Button>
      )}
      {post.stage === "cleared" && (
        <Button disabled={busy} onClick={() => void go("unclear", "It is off the shelf.")}>
          Take off the shelf
        </Button>
      )}
      {post.status === "scheduled" && post.kind === "post" && (
        <Button disabled={busy} onClick={() => void go("shelve", "It is back on the shelf.")}>
          Back to the shelf
        </Button>
      )}
      {(post.status === "draft" || post.status === "scheduled") && (
        <Button
          {...(post.kind === "page" && written ? { look: "main" as const } : {})}
          disabled={busy}
          onClick={() => void go("publish", "It is out.")}
        >
          Publish now
        </Button>
      )}
      {post.status === "binned" ? (
        <>
          <Button look="main" disabled={busy} onClick={() => void go("restore", "It is out of the bin.")}>
            Take it out of the bin
          </Button>
          <DeleteForGood site={site} post={post} />
        </>
      ) : (
        <Button look="quiet" disabled={busy} onClick={() => void go("bin", "It is in the bin.")}>
          Put into the bin
        </Button>
      )}
    </div>
  );
}

function ContributorDeeds({ site, autosave, post }: DeedsProps) {
  const { busy, go } = useDo(site, autosave);
  if (post.stage === "draft")
    return (
      <Button
        look="main"
        disabled={busy}
        onClick={() => void go("hand in", "It is handed in. An editor sees to the rest.")}
      >
        Hand it in
      </Button>
    );
  if (post.stage === "handed in")
    return (
      <Button disabled={busy} onClick={() => void go("give back", "It is yours to write on again.")}>
        Take it back to write on
      </Button>
    );
  return null;
}
