import { Pencil, Pin, Sprout } from "lucide-react";
import type { ReactNode } from "react";
import { Link } from "react-router";
import { IconButton } from "../../ui/Button";
import { shownPlace } from "../../ui/siteClock";
import { Tick } from "../../ui/Tick";
import type { Column } from "./columns";
import { stageWord, type Listed } from "./posts";

type Props = {
  site: string;
  post: Listed;
  shown: Column[];
  template: string;
  chosen: boolean;
  onChoose: (on: boolean) => void;
  onEdit: () => void;
};

/** One post of the list. */
export function PostRow({ site, post, shown, template, chosen, onChoose, onEdit }: Props) {
  const title = post.title || "Untitled";
  return (
    <div
      role="row"
      style={{ gridTemplateColumns: template }}
      className={`group grid min-h-10 items-center gap-x-3 border-b border-line py-1 text-sm ${chosen ? "bg-open" : "hover:bg-sheet"}`}
    >
      <div role="cell" className="pl-1">
        <Tick label={`Choose “${title}”`} hideLabel on={chosen} onChange={onChoose} />
      </div>
      <div role="cell" className="min-w-0">
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
        <p className="truncate text-xs text-soft md:hidden">
          {[stageWord(post.stage), post.when && moment(post.when), post.author].filter(Boolean).join(" · ")}
        </p>
      </div>
      {shown.map((c) => (
        <div key={c} role="cell" className="hidden min-w-0 truncate text-soft md:block">
          {cell(c, post)}
        </div>
      ))}
      <div role="cell" className="text-right">
        <IconButton label={`Quick edit of “${title}”`} onClick={onEdit}>
          <Pencil size={14} />
        </IconButton>
      </div>
      {post.snippet && (
        <div role="cell" style={{ gridColumn: "2 / -2" }} className="truncate text-xs text-soft">
          <Hits parts={post.snippet} />
        </div>
      )}
    </div>
  );
}

function moment(place: NonNullable<Listed["when"]>): string {
  return `${shownPlace(place)}`;
}

function cell(column: Column, post: Listed): ReactNode {
  switch (column) {
    case "stage":
      return (
        <span className={post.stage === "held" ? "text-madder" : "text-ink"}>{stageWord(post.stage)}</span>
      );
    case "when":
      return post.when ? moment(post.when) : "";
    case "author":
      return post.author;
    case "category":
      return post.category;
    case "tags":
      return <span title={post.tags.join(", ")}>{post.tags.join(", ")}</span>;
    case "words":
      return post.words.toLocaleString("en-GB");
    case "changed":
      return moment(post.updated);
  }
}

function Flag({ children }: { children: string }) {
  return <span className="shrink-0 rounded-sm border border-line px-1 text-xs text-soft">{children}</span>;
}

function Hits({ parts }: { parts: NonNullable<Listed["found"]> }) {
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
