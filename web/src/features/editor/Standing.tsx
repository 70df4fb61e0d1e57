import { ExternalLink } from "lucide-react";
import { useState } from "react";
import { Link } from "react-router";
import { Button } from "../../ui/Button";
import { clock } from "../../ui/civil";
import { isAhead, shownDate } from "../../ui/siteClock";
import { PublishSheet } from "../post/PublishSheet";
import { BeginTour } from "../tours/BeginTour";
import type { Autosave, Post, State } from "./autosave";
import { AtATime } from "./AtATime";
import { DeleteForGood } from "./DeleteForGood";
import { useDo } from "./deeds";
import { MoveToBlog } from "./MoveToBlog";
import { NextSlot } from "./NextSlot";

type Props = { site: string; autosave: Autosave; state: State; editor: boolean };

/** Where the post stands in the plan, and what can be done with it. */
export function Standing({ site, autosave, state, editor }: Props) {
  const { post } = state;
  return (
    <section aria-label="Status" className="space-y-2 rounded-md border border-line bg-sheet p-3 text-sm">
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
  if (post.id === 0) return <p className="text-soft">A new draft. It is kept once you write something.</p>;
  if (post.stage === "linked")
    return <p>A link item: your rules share its title and link. It has no page on the blog.</p>;
  if (post.stage === "draft") return <p>{post.kind === "page" ? "Draft of a page" : "Draft"}</p>;
  if (post.stage === "handed in") return <p>Waiting for review, sent by {post.author}.</p>;
  if (post.stage === "cleared")
    return (
      <p>
        On the shelf.{" "}
        <Link to={almanac} className="underline underline-offset-2">
          See its proposed slot
        </Link>
      </p>
    );
  if (post.stage === "binned")
    return (
      <p className="text-away">In the bin. Readers cannot open it; no other post can take its address.</p>
    );
  return (
    <>
      {post.when && (
        <p>
          {post.held ? "On hold, planned for " : post.status === "scheduled" ? "Comes out " : "Out since "}
          {shownDate(post.when.date)}, <span className="font-semibold">{clock(post.when.minute)}</span>.{" "}
          <Link to={almanac} className="underline underline-offset-2">
            Show in the Almanac
          </Link>
        </p>
      )}
      {post.held && (
        <p className="text-madder">
          {post.when && isAhead(post.when)
            ? "It will not come out unless you release it."
            : "Its time has passed. Give it another, or publish it now."}
        </p>
      )}
      {post.firstPublished && <p>First published {shownDate(post.firstPublished.date)}.</p>}
      {post.status === "archived" && <p className="text-away">Archived: {post.notice}</p>}
    </>
  );
}

type DeedsProps = { site: string; autosave: Autosave; post: Post };

function EditorDeeds({ site, autosave, post }: DeedsProps) {
  const { busy, go, publish } = useDo(site, autosave);
  const [publishing, setPublishing] = useState(false);
  const can = (deed: string) => post.can.includes(deed);
  const queues = post.kind === "post";
  return (
    <>
      {can("place") && <NextSlot site={site} autosave={autosave} post={post} />}
      {can("retime") && <AtATime key={post.id} site={site} autosave={autosave} post={post} />}
      <div className="flex flex-wrap gap-2">
        {can("clear") && (
          <Button disabled={busy} onClick={() => void go("clear", "On the shelf.")}>
            Put on the shelf
          </Button>
        )}
        {can("unclear") && (
          <Button disabled={busy} onClick={() => void go("unclear", "Off the shelf.")}>
            Take off the shelf
          </Button>
        )}
        {can("shelve") && (
          <Button
            disabled={busy}
            onClick={() =>
              void go("shelve", queues ? "Back on the shelf." : "Unscheduled. It is a draft again.")
            }
          >
            {queues ? "Back to the shelf" : "Unschedule"}
          </Button>
        )}
        {post.status === "published" && <BeginTour site={site} post={post.id} />}
        {can("hold") && (
          <Button
            disabled={busy}
            onClick={() => void go("hold", "On hold. It will not come out until you release it.")}
          >
            Hold
          </Button>
        )}
        {can("release") && (
          <Button disabled={busy} onClick={() => void go("release", "Released. It comes out at its time.")}>
            Release
          </Button>
        )}
        {can("publish") && (
          <Button disabled={busy} onClick={() => setPublishing(true)}>
            Publish now…
          </Button>
        )}
        {can("give back") && (
          <Button
            disabled={busy}
            onClick={() => void go("give back", `Sent back to ${post.author} for changes.`)}
          >
            Send back
          </Button>
        )}
        {can("restore") && (
          <Button look="main" disabled={busy} onClick={() => void go("restore", "Restored from the bin.")}>
            Restore
          </Button>
        )}
        {can("delete") && <DeleteForGood site={site} post={post} />}
        {post.status === "draft" && post.kind !== "link" && post.id !== 0 && can("bin") && (
          <MoveToBlog site={site} autosave={autosave} post={post} />
        )}
        {post.id !== 0 && can("bin") && (
          <Button look="quiet" disabled={busy} onClick={() => void go("bin", "Moved to the bin.")}>
            Move to the bin
          </Button>
        )}
      </div>
      <PublishSheet
        site={site}
        post={post}
        open={publishing}
        onClose={() => setPublishing(false)}
        publish={publish}
      />
    </>
  );
}

function ContributorDeeds({ site, autosave, post }: DeedsProps) {
  const { busy, go } = useDo(site, autosave);
  if (post.can.includes("hand in"))
    return (
      <Button
        look="main"
        disabled={busy}
        onClick={() => void go("hand in", "Sent for review. An editor takes it from here.")}
      >
        Send for review
      </Button>
    );
  if (post.can.includes("give back"))
    return (
      <Button disabled={busy} onClick={() => void go("give back", "You can edit it again.")}>
        Take it back to edit
      </Button>
    );
  return null;
}
