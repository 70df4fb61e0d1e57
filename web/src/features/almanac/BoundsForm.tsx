import { useState, type FormEvent } from "react";
import { Refusal } from "../../api/client";
import { Button } from "../../ui/Button";
import { TextField } from "../../ui/Field";
import { useSay } from "../../ui/toast";
import { useTell } from "../logbook/useTell";
import { useBounds, type Post } from "./almanac";

type Props = {
  site: string;
  post: Post;
  /** Done first; answers with the version to change. */
  before?: () => Promise<number>;
  onDone?: (saved: Post) => void;
};

/** When a draft may come out: not before a date, not after a deadline. Both are dates of the site. */
export function BoundsForm({ site, post, before, onDone }: Props) {
  const bounds = useBounds(site);
  const say = useSay();
  const tell = useTell(site);
  const [notBefore, setNotBefore] = useState(post.notBefore?.date ?? "");
  const [deadline, setDeadline] = useState(post.deadline?.date ?? "");
  const wrong = bounds.error instanceof Refusal ? bounds.error : undefined;
  const changed = notBefore !== (post.notBefore?.date ?? "") || deadline !== (post.deadline?.date ?? "");

  function submit(event: FormEvent) {
    event.preventDefault();
    // By promise: the form is made anew for the post's next version, which may be here first.
    (before?.() ?? Promise.resolve(post.version))
      .then((version) =>
        bounds.mutateAsync({
          id: post.id,
          version,
          ...(notBefore ? { notBefore } : {}),
          ...(deadline ? { deadline } : {}),
        }),
      )
      .then((saved) => {
        onDone?.(saved);
        tell("The bounds are set; the proposal follows them.");
      })
      .catch((error: unknown) => {
        if (!(error instanceof Refusal) || !error.problem.errors?.length) say.trouble(error);
      });
  }

  return (
    <form onSubmit={submit} className={onDone ? "" : "border-t border-line pt-3"}>
      <div className="grid grid-cols-2 gap-2">
        <TextField
          label="Not before"
          type="date"
          value={notBefore}
          onChange={(e) => setNotBefore(e.target.value)}
        />
        <TextField
          label="Deadline"
          type="date"
          value={deadline}
          error={wrong?.field("deadline")}
          onChange={(e) => setDeadline(e.target.value)}
        />
      </div>
      {changed && (
        <Button type="submit" className="mt-2" disabled={bounds.isPending}>
          Set bounds
        </Button>
      )}
    </form>
  );
}
