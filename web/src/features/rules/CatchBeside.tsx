import { useState } from "react";
import { Link } from "react-router";
import { Button } from "../../ui/Button";
import { Warning } from "../../ui/Trouble";
import type { Caught, Preview } from "./rules";
import { WhyNot } from "./WhyNot";
import type { RuleBody } from "./rules";

type Props = {
  site: string;
  id: number;
  rule: RuleBody;
  preview: Preview | undefined;
  offset: number;
  onTurn: (offset: number) => void;
  onLeaveOut?: (post: number) => void;
};

const aPage = 100;

/** Beside the rule: the posts that it catches as it stands, each with its reason. */
export function CatchBeside({ site, id, rule, preview, offset, onTurn, onLeaveOut }: Props) {
  const [open, setOpen] = useState<number>();
  if (!preview) return <p className="text-sm text-soft">Checking posts…</p>;
  const out = rule.kind !== "expire";
  if (preview.problems.length > 0)
    return (
      <section aria-label="Catch">
        <h2 className="mb-1 text-base font-semibold">{out ? "May come out" : "Catch"}</h2>
        <p className="text-sm text-soft">Posts show up here once the rule is complete. Still to do:</p>
        <ul className="mt-2 list-disc space-y-1 pl-4 text-sm">
          {preview.problems.slice(0, 4).map((p) => (
            <li key={p.path + p.message}>
              {about(p.path)}: {p.message}
            </li>
          ))}
        </ul>
      </section>
    );
  return (
    <section aria-label="Catch">
      <div className="mb-1 flex items-baseline gap-2">
        <h2 className="text-base font-semibold">{out ? "May come out now" : "Catch"}</h2>
        <p role="status" className="text-sm">
          <span className="font-semibold">{preview.count}</span>{" "}
          <span className="text-soft">
            {preview.forGood ? "in the bin" : `of ${preview.published} published`}
          </span>
        </p>
      </div>
      <p className="mb-2 text-sm text-soft">{preview.sentence}</p>
      {preview.all && <Warning>This matches every published post. It cannot be turned on like this.</Warning>}
      {preview.wide && !preview.all && !preview.forGood && (
        <Warning>This is more than a fifth of the blog’s posts.</Warning>
      )}
      {preview.warnings.length > 0 && !out && <Warning>{preview.warnings[0]}</Warning>}
      {preview.badDates.length > 0 && (
        <Warning>
          {preview.badDates.length === 1 ? "1 post holds" : `${preview.badDates.length} posts hold`} something
          else than a date: “{preview.badDates[0]!.title}” and so on. They are not caught.
        </Warning>
      )}
      {preview.count === 0 && <p className="text-sm text-soft">No posts match right now.</p>}
      <ul className="divide-y divide-line border-y border-line empty:hidden">
        {preview.posts.map((p) => (
          <Post
            key={p.id}
            site={site}
            post={p}
            open={open === p.id}
            onToggle={() => setOpen(open === p.id ? undefined : p.id)}
            {...(onLeaveOut ? { onLeaveOut: () => onLeaveOut(p.id) } : {})}
          />
        ))}
      </ul>
      {preview.count > aPage && (
        <div className="mt-2 flex items-center gap-2 text-sm text-soft">
          <Button disabled={offset === 0} onClick={() => onTurn(Math.max(offset - aPage, 0))}>
            Before
          </Button>
          {offset + 1} to {Math.min(offset + aPage, preview.count)}
          <Button disabled={offset + aPage >= preview.count} onClick={() => onTurn(offset + aPage)}>
            After
          </Button>
        </div>
      )}
      <WhyNot site={site} id={id} rule={rule} />
    </section>
  );
}

const names: Record<string, string> = {
  tellDays: "Authors",
  readDays: "Read it first",
  say: "Share it again",
  sayAfter: "Share it again",
  name: "Name",
  condition: "Condition",
  cadence: "When",
  wordings: "Wordings",
  hashtags: "Hashtags",
  params: "Links",
  channels: "Channels",
  mode: "Channels",
  between: "Channels",
  byChannel: "Wordings",
  picture: "Picture",
  replyText: "Reply",
  replyAfter: "Reply",
  starts: "Dates",
  ends: "Dates",
  atATime: "Order",
  youngest: "Age",
  oldest: "Age",
  apart: "Distance",
  most: "Distance",
  order: "Order",
  from: "Active hours",
  to: "Active hours",
};

/** Which line of the form a problem is about. */
function about(path: string): string {
  return names[path.split(/[.[]/)[0] ?? ""] ?? "What happens";
}

function Post({
  site,
  post,
  open,
  onToggle,
  onLeaveOut,
}: {
  site: string;
  post: Caught;
  open: boolean;
  onToggle: () => void;
  onLeaveOut?: () => void;
}) {
  return (
    <li>
      <button
        type="button"
        aria-expanded={open}
        onClick={onToggle}
        className="w-full py-1.5 text-left hover:bg-sunk"
      >
        <span className="block truncate text-sm font-medium">{post.title}</span>
        <span className={`block text-xs text-soft ${open ? "" : "truncate"}`}>{post.reason}</span>
      </button>
      {open && (
        <div className="flex gap-2 pb-2">
          <Link to={`/${site}/write/${post.id}`} className="text-sm underline underline-offset-2">
            Open the post
          </Link>
          {onLeaveOut && (
            <button type="button" onClick={onLeaveOut} className="text-sm underline underline-offset-2">
              Exclude it from this rule
            </button>
          )}
        </div>
      )}
    </li>
  );
}
