import { useState } from "react";
import { Link, useParams } from "react-router";
import { Button } from "../../ui/Button";
import { TextField } from "../../ui/Field";
import { Tick } from "../../ui/Tick";
import { useSay } from "../../ui/toast";
import { TroubleHere } from "../../ui/Trouble";
import { useSettled } from "../../ui/useSettled";
import { useTell } from "../logbook/useTell";
import { usePlanner } from "../session/session";
import { CommentRow } from "./CommentRow";
import { useComments, useDecide, type Status } from "./comments";
import { decisions } from "./decisions";

const stages: { status: Status; name: string; none: string }[] = [
  { status: "held", name: "Waiting", none: "No comments are waiting for approval." },
  { status: "shown", name: "Shown", none: "Readers see no comments yet." },
  { status: "binned", name: "Bin", none: "The bin is empty." },
];

/** What readers wrote under posts: approved, answered, deleted, one at a time or many at once. */
export default function CommentsScreen() {
  const { site = "" } = useParams();
  const [status, setStatus] = useState<Status>("held");
  const [text, setText] = useState("");
  const [ticked, setTicked] = useState<ReadonlySet<number>>(new Set());
  const find = useSettled(text.trim(), 250);
  const list = useComments(site, status, find);
  const decide = useDecide(site);
  const editor = usePlanner(site);
  const tell = useTell(site);
  const say = useSay();
  const comments = list.data?.pages.flatMap((p) => p.comments) ?? [];
  const first = list.data?.pages[0];
  const chosen = comments.filter((c) => ticked.has(c.id)).map((c) => c.id);
  const stage = stages.find((s) => s.status === status);

  function go(ids: number[], to: Status, done: string) {
    decide.mutate(
      { ids, to },
      {
        onSuccess: ({ changed }) => {
          setTicked(new Set());
          tell(`${changed === 1 ? "1 comment" : `${changed} comments`} ${done}.`);
        },
        onError: say.trouble,
      },
    );
  }
  return (
    <main className="mx-auto flex w-full max-w-300 flex-col gap-x-6 gap-y-3 px-5 pt-4 pb-10 md:flex-row">
      <nav
        aria-label="Which comments"
        className="flex gap-1 overflow-x-auto md:w-40 md:shrink-0 md:flex-col md:overflow-visible"
      >
        {stages.map((s) => (
          <button
            key={s.status}
            type="button"
            aria-current={s.status === status ? "true" : undefined}
            onClick={() => {
              setStatus(s.status);
              setTicked(new Set());
            }}
            className={`flex shrink-0 justify-between gap-3 rounded-md px-2 py-1 text-left text-sm whitespace-nowrap ${s.status === status ? "bg-ink text-ground" : "hover:bg-sunk"}`}
          >
            {s.name} <span>{first?.counts[s.status] ?? ""}</span>
          </button>
        ))}
        <Link
          to={`/${site}/settings/comments`}
          className="shrink-0 rounded-md px-2 py-1 text-sm text-soft hover:bg-sunk hover:text-ink md:mt-3"
        >
          Settings for comments
        </Link>
        <Link
          to={`/${site}/posts`}
          className="shrink-0 rounded-md px-2 py-1 text-sm text-soft hover:bg-sunk hover:text-ink"
        >
          Back to posts
        </Link>
      </nav>
      <section aria-label="Comments" className="min-w-0 flex-1">
        <div className="mb-3 flex flex-wrap items-end gap-3">
          <h1 className="mr-auto font-title text-2xl">Comments</h1>
          <div className="w-72 max-w-full">
            <TextField
              label="Find a comment"
              hideLabel
              type="search"
              placeholder="Name, or words of the comment"
              maxLength={200}
              value={text}
              onChange={(e) => setText(e.target.value)}
            />
          </div>
        </div>
        {first && !first.open && (
          <p className="mb-3 rounded-md border border-dashed border-strong px-3 py-3 text-sm text-soft">
            This blog takes no comments.{" "}
            <Link to={`/${site}/settings/comments`} className="underline">
              Open comments
            </Link>{" "}
            to let readers write under posts.
          </p>
        )}
        {editor && comments.length > 0 && (
          <div className="mb-1 flex min-h-9 flex-wrap items-center gap-3 border-b border-line pb-1">
            <Tick
              label="Select all"
              on={chosen.length === comments.length}
              onChange={(on) => setTicked(new Set(on ? comments.map((c) => c.id) : []))}
            />
            {chosen.length > 0 && <span className="text-sm text-soft">{chosen.length} selected</span>}
            {chosen.length > 0 &&
              decisions
                .filter((d) => d.from.includes(status))
                .map((d) => (
                  <Button
                    key={d.name}
                    look={d.name === "Approve" ? "main" : "plain"}
                    disabled={decide.isPending}
                    onClick={() => go(chosen, d.to, d.done)}
                  >
                    {d.name} {chosen.length}
                  </Button>
                ))}
          </div>
        )}
        {list.error && !list.data && <TroubleHere error={list.error} retry={() => void list.refetch()} />}
        {list.data && comments.length === 0 && (
          <p role="status" className="py-10 text-center text-soft">
            {find ? "No comments match." : stage?.none}
          </p>
        )}
        <ul className="divide-y divide-line">
          {comments.map((c) => (
            <CommentRow
              key={c.id}
              site={site}
              comment={c}
              editor={editor}
              ticked={ticked.has(c.id)}
              onTick={(on) =>
                setTicked((all) => new Set(on ? [...all, c.id] : [...all].filter((id) => id !== c.id)))
              }
              busy={decide.isPending}
              onDecide={(to, done) => go([c.id], to, done)}
            />
          ))}
        </ul>
        {list.hasNextPage && (
          <Button
            look="quiet"
            className="mt-3"
            disabled={list.isFetchingNextPage}
            onClick={() => void list.fetchNextPage()}
          >
            Show older
          </Button>
        )}
      </section>
    </main>
  );
}
