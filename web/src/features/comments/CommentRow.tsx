import { useState, type FormEvent } from "react";
import { Link } from "react-router";
import { Button } from "../../ui/Button";
import { shownMoment } from "../../ui/siteClock";
import { TextArea } from "../../ui/TextArea";
import { Tick } from "../../ui/Tick";
import { useSay } from "../../ui/toast";
import { useAnswer, type Comment, type Status } from "./comments";
import { decisions } from "./decisions";

type Props = {
  site: string;
  comment: Comment;
  editor: boolean;
  ticked: boolean;
  busy: boolean;
  onTick: (on: boolean) => void;
  onDecide: (to: Status, done: string) => void;
};

/** One comment with what can be done about it. */
export function CommentRow({ site, comment, editor, ticked, busy, onTick, onDecide }: Props) {
  const [answering, setAnswering] = useState(false);
  const answer = comment.status === "held" ? "Approve and answer…" : "Answer…";
  const post = (
    <Link to={`/${site}/write/${comment.post}`} className="underline">
      {comment.title || "Untitled"}
    </Link>
  );
  return (
    <li className="flex gap-3 py-3">
      {editor && (
        <div className="pt-0.5">
          <Tick label={`Select the comment by ${comment.name}`} hideLabel on={ticked} onChange={onTick} />
        </div>
      )}
      <div className="min-w-0 flex-1">
        <p className="flex flex-wrap gap-x-2 text-sm text-soft">
          <span className="font-semibold text-ink" dir="auto">
            {comment.name}
          </span>
          {comment.team && <span>for the blog</span>}
          <span>
            {comment.answers ? "in answer, on" : "on"} {post}
          </span>
          <span>{shownMoment(comment.at)}</span>
          {comment.status === "shown" && (
            <a href={comment.address} target="_blank" rel="noreferrer" className="underline">
              See it on the blog
            </a>
          )}
        </p>
        <p dir="auto" className="my-1 max-w-prose text-base wrap-anywhere whitespace-pre-line">
          {comment.text}
        </p>
        {editor && !answering && (
          <div className="-ml-3 flex flex-wrap">
            {decisions
              .filter((d) => d.from.includes(comment.status))
              .map((d) => (
                <Button
                  key={d.name}
                  look="quiet"
                  aria-label={`${d.name} the comment by ${comment.name}`}
                  disabled={busy}
                  onClick={() => onDecide(d.to, d.done)}
                >
                  {d.name}
                </Button>
              ))}
            {comment.status !== "binned" && (
              <Button
                look="quiet"
                aria-label={`${answer} (${comment.name})`}
                onClick={() => setAnswering(true)}
              >
                {answer}
              </Button>
            )}
          </div>
        )}
        {answering && <AnswerForm site={site} comment={comment} onDone={() => setAnswering(false)} />}
      </div>
    </li>
  );
}

function AnswerForm({ site, comment, onDone }: { site: string; comment: Comment; onDone: () => void }) {
  const [text, setText] = useState("");
  const answer = useAnswer(site, comment.id);
  const say = useSay();
  function submit(event: FormEvent) {
    event.preventDefault();
    answer.mutate(text, {
      onSuccess: () => {
        onDone();
        say.done("Answer published.");
      },
    });
  }
  return (
    <form onSubmit={submit} noValidate className="max-w-prose space-y-2">
      <TextArea
        label={`Your answer to ${comment.name}`}
        rows={3}
        autoFocus
        dir="auto"
        value={text}
        error={answer.error?.message}
        onChange={(e) => setText(e.target.value)}
      />
      <div className="flex gap-2">
        <Button type="submit" look="main" disabled={text.trim() === "" || answer.isPending}>
          {comment.status === "held" ? "Approve and answer" : "Publish answer"}
        </Button>
        <Button onClick={onDone}>Cancel</Button>
      </div>
    </form>
  );
}
