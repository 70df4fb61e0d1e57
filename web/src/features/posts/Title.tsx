import { Pin, Sprout } from "lucide-react";
import type { ReactNode } from "react";
import { Link, useParams } from "react-router";
import { shownPlace } from "../../ui/siteClock";
import { stageWord, type Listed } from "./posts";

/** The title of a post in the list, which opens it, and what marks it. */
export function Title({ post }: { post: Listed }) {
  const { site = "" } = useParams();
  const title = post.title || "Untitled";
  const about = [stageWord(post.stage), post.when && shownPlace(post.when), post.author];
  return (
    <>
      <div className="flex items-center gap-1.5">
        <Link
          to={`/${site}/write/${post.id}`}
          dir="auto"
          title={title}
          className={`truncate text-base hover:underline ${post.title ? "" : "text-soft italic"}`}
        >
          {post.found ? <Hits parts={post.found} /> : title}
        </Link>
        {post.kind === "page" && <Flag>page</Flag>}
        {post.onTop && <Flag>on top</Flag>}
        {post.pinned && <Pin size={12} aria-label="pinned" className="shrink-0 text-soft" />}
        {post.evergreen && <Sprout size={12} aria-label="evergreen" className="shrink-0 text-soft" />}
      </div>
      <p className="truncate text-xs text-soft md:hidden">{about.filter(Boolean).join(" · ")}</p>
    </>
  );
}

function Flag({ children }: { children: string }) {
  return <span className="shrink-0 rounded-sm border border-line px-1 text-xs text-soft">{children}</span>;
}

/** A text with the words that were searched for marked. */
export function Hits({ parts }: { parts: NonNullable<Listed["found"]> }): ReactNode {
  return parts.map((p, i) =>
    p.hit ? (
      <mark key={i} className="rounded-sm bg-tape text-tape-ink">
        {p.text}
      </mark>
    ) : (
      <span key={i}>{p.text}</span>
    ),
  );
}
