import { ExternalLink, PenLine } from "lucide-react";
import { useState } from "react";
import { Link } from "react-router";
import { Button } from "../../ui/Button";
import { clock } from "../../ui/civil";
import { isAhead, shownDate, shownPlace } from "../../ui/siteClock";
import { useSay } from "../../ui/toast";
import { useTell } from "../logbook/useTell";
import { BoundsForm, boundsOf } from "../post/BoundsForm";
import { PublishSheet } from "../post/PublishSheet";
import { RetimeForm } from "../post/RetimeForm";
import { useDeed, usePost, usePostLog, type Post } from "../post/post";
import { TroubleHere } from "../../ui/Trouble";
import { useOrderShelf, type Almanac } from "../plan/almanac";
import { Panel } from "./Panel";
import { useUnready } from "./Unready";

type Props = {
  site: string;
  id: number;
  plan: Almanac;
  onClose: () => void;
  /** Shows a day that the tape does not show now. */
  onDay: (date: string) => void;
};

/** One post of the plan: when and why, and what can be done with it. */
export function PostPanel({ site, id, plan, onClose, onDay }: Props) {
  const post = usePost(site, id);
  if (post.error && !post.data) return <TroubleHere error={post.error} retry={() => void post.refetch()} />;
  return (
    <Panel title={post.data ? wordFor(post.data) : "Post"} onClose={onClose}>
      {post.data && <Details site={site} post={post.data} plan={plan} onClose={onClose} onDay={onDay} />}
    </Panel>
  );
}

function wordFor(post: Post): string {
  if (post.status === "draft") return post.cleared ? "On the shelf" : "Draft";
  if (post.held) return "On hold";
  if (post.status === "scheduled") return post.pinned ? "Scheduled, pinned" : "Scheduled";
  if (post.status === "binned") return "In the bin";
  return post.status === "published" ? "Out" : "Archived";
}

type DetailsProps = Omit<Props, "id"> & { post: Post };

function Details({ site, post, plan, onClose, onDay }: DetailsProps) {
  const proposal = plan.shelf.find((s) => s.id === post.id);
  const when = post.when ?? proposal?.proposed;
  const movable = post.can.includes("retime");
  return (
    <>
      <div>
        <p className="font-title text-xl leading-tight">{post.title || "Untitled"}</p>
        <p className="mt-1 text-sm text-soft">{[post.author, post.category].filter(Boolean).join(" · ")}</p>
      </div>
      {when && (
        <p className={`rounded-md px-3 py-2 text-sm ${post.when ? "bg-sunk" : "chalked"}`}>
          {shownDate(when.date)}, <span className="font-semibold">{clock(when.minute)}</span>
          {proposal && <span className="mt-0.5 block text-xs">Proposed. {proposal.reason}</span>}
          {!plan.days.some((d) => d.date === when.date) && (
            <button
              type="button"
              onClick={() => onDay(when.date)}
              className="mt-1 block text-xs underline underline-offset-2"
            >
              Show that day on the tape
            </button>
          )}
        </p>
      )}
      {post.held && (
        <p className="rounded-md bg-madder-wash px-3 py-2 text-sm text-madder">
          {post.when && isAhead(post.when)
            ? "On hold: it will not come out at its time unless you release it."
            : "On hold: its time passed while nothing could be published. Give it a time, publish it now, or put it back on the shelf."}
        </p>
      )}
      {proposal && !proposal.proposed && <p className="text-sm text-madder">{proposal.reason}</p>}
      <Missing site={site} id={post.id} />
      <div className="flex flex-wrap gap-2">
        <Link
          to={`/${site}/write/${post.id}`}
          className="inline-flex h-8 items-center gap-1.5 rounded-md border border-strong px-3 text-sm hover:border-ink"
        >
          <PenLine size={14} /> Edit
        </Link>
        {post.address && (
          <a
            href={post.address}
            target="_blank"
            rel="noreferrer"
            className="inline-flex h-8 items-center gap-1.5 rounded-md border border-strong px-3 text-sm hover:border-ink"
          >
            Read on the blog <ExternalLink size={12} aria-label="opens in a new tab" />
          </a>
        )}
      </div>
      {movable && (
        <RetimeForm
          key={`time ${post.id} ${post.when?.at ?? ""}`}
          site={site}
          post={post}
          start={when ?? plan.now}
          zone={plan.zone}
        />
      )}
      {post.can.includes("bound") && <BoundsForm key={`bounds ${boundsOf(post)}`} site={site} post={post} />}
      {movable && <Deeds site={site} post={post} plan={plan} onClose={onClose} />}
      <History site={site} id={post.id} />
    </>
  );
}

/** What readers would miss in it, if it came out as it is. */
function Missing({ site, id }: { site: string; id: number }) {
  const found = (useUnready(site).data ?? []).filter((f) => f.postId === id);
  if (found.length === 0) return null;
  return (
    <ul className="space-y-0.5 rounded-md border border-line px-3 py-2 text-sm text-away">
      {found.map((f) => (
        <li key={f.message}>{f.message}</li>
      ))}
    </ul>
  );
}

function Deeds({ site, post, plan, onClose }: Omit<DetailsProps, "onDay">) {
  const say = useSay();
  const order = useOrderShelf(site);
  const tell = useTell(site);
  const shelve = useDeed(site, "shelve");
  const unclear = useDeed(site, "unclear");
  const clear = useDeed(site, "clear");
  const hold = useDeed(site, "hold");
  const release = useDeed(site, "release");
  const publish = useDeed(site, "publish");
  const can = (deed: string) => post.can.includes(deed);
  const [publishing, setPublishing] = useState(false);
  const seen = { id: post.id, version: post.version };
  const done = (text: string) => ({ onSuccess: () => tell(text), onError: say.trouble });
  return (
    <div className="flex flex-wrap gap-2 border-t border-line pt-3">
      {can("shelve") && (
        <Button
          disabled={shelve.isPending}
          onClick={() => shelve.mutate(seen, done(`“${post.title}” is back at the front of the shelf.`))}
        >
          {post.kind === "page" ? "Unschedule" : "Back to the shelf"}
        </Button>
      )}
      {can("hold") && (
        <Button
          disabled={hold.isPending}
          onClick={() =>
            hold.mutate(seen, done(`“${post.title}” is on hold. It will not come out until you release it.`))
          }
        >
          Hold
        </Button>
      )}
      {can("release") && (
        <Button
          disabled={release.isPending}
          onClick={() => release.mutate(seen, done(`“${post.title}” comes out at its time.`))}
        >
          Release
        </Button>
      )}
      {post.cleared && plan.order === "hand" && plan.shelf[0]?.id !== post.id && (
        <Button
          disabled={order.isPending}
          onClick={() =>
            order.mutate(
              [post.id, ...plan.shelf.map((s) => s.id).filter((id) => id !== post.id)],
              done(`“${post.title}” is first on the shelf.`),
            )
          }
        >
          First on the shelf
        </Button>
      )}
      {can("unclear") && (
        <Button
          disabled={unclear.isPending}
          onClick={() => unclear.mutate(seen, done(`“${post.title}” is off the shelf.`))}
        >
          Take off the shelf
        </Button>
      )}
      {can("clear") && (
        <Button
          disabled={clear.isPending}
          onClick={() => clear.mutate(seen, done(`“${post.title}” is on the shelf.`))}
        >
          Put on the shelf
        </Button>
      )}
      {can("publish") && <Button onClick={() => setPublishing(true)}>Publish now…</Button>}
      <PublishSheet
        site={site}
        post={post}
        open={publishing}
        onClose={() => setPublishing(false)}
        publish={() => publish.mutateAsync(seen)}
        onDone={onClose}
      />
    </div>
  );
}

function History({ site, id }: { site: string; id: number }) {
  const log = usePostLog(site, id);
  if (!log.data?.length) return null;
  return (
    <section className="border-t border-line pt-3">
      <h3 className="mb-1 text-sm font-semibold">Logbook</h3>
      <ul className="space-y-1.5 text-xs text-soft">
        {log.data.slice(0, 6).map((line) => (
          <li key={line.at + line.deed}>
            <span className="text-ink">{line.reason}</span>
            <span className="block text-faint">
              {shownPlace(line)}, {line.who}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}
