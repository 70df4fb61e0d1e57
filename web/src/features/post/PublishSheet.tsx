import { useState } from "react";
import { Button } from "../../ui/Button";
import { clock } from "../../ui/civil";
import { Sheet } from "../../ui/Sheet";
import { shownDate } from "../../ui/siteClock";
import { useSay } from "../../ui/toast";
import { useTell } from "../logbook/useTell";
import type { Post } from "./post";

type Props = {
  site: string;
  post: Post;
  open: boolean;
  onClose: () => void;
  /** Publishes it. */
  publish: () => Promise<unknown>;
  onDone?: () => void;
};

/** Asks before a post comes out at once. */
export function PublishSheet({ site, post, open, onClose, onDone, publish }: Props) {
  const [busy, setBusy] = useState(false);
  const say = useSay();
  const tell = useTell(site);
  function go() {
    // By promise: the panel may be drawn anew, and this sheet gone, before the answer is here.
    setBusy(true);
    publish()
      .then(() => {
        tell(`“${post.title}” is out.`);
        onDone?.();
      })
      .catch(say.trouble)
      .finally(() => {
        setBusy(false);
        onClose();
      });
  }
  return (
    <Sheet
      open={open}
      onClose={onClose}
      title="Publish now"
      actions={
        <>
          <Button onClick={onClose}>Cancel</Button>
          <Button look="main" onClick={go} disabled={busy}>
            Publish “{post.title.length > 40 ? post.title.slice(0, 38) + "…" : post.title}”
          </Button>
        </>
      }
    >
      <p>
        <span className="font-medium">{post.title}</span> comes out on the blog and in its feed at once;
        readers can see it from this minute on.
      </p>
      {post.when && (
        <p className="mt-2 text-sm text-soft">
          Its time on {shownDate(post.when.date)} at {clock(post.when.minute)} becomes free again.
        </p>
      )}
    </Sheet>
  );
}
