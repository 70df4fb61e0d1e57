import { useState } from "react";
import { useNavigate } from "react-router";
import { Button } from "../../ui/Button";
import { Sheet } from "../../ui/Sheet";
import { Warning } from "../../ui/Trouble";
import { PostChoice } from "../rules/PostChoice";
import { useTourDeeds } from "./tours";

type Props = {
  site: string;
  /** The tour whose wordings, channels and dates it takes; none: a new one. */
  like?: { id: number; name: string };
  onClose: () => void;
};

/** Begins a tour of a post, from the beginning or in the manner of another. */
export function NewTourSheet({ site, like, onClose }: Props) {
  const navigate = useNavigate();
  const { begin } = useTourDeeds(site);
  const [post, setPost] = useState<{ id: number; title: string }>();
  const go = () =>
    post &&
    begin.mutateAsync({ postId: post.id, ...(like ? { like: like.id } : {}) }).then(
      (tour) => void navigate(`/${site}/tours/${tour.id}`),
      () => undefined,
    );
  return (
    <Sheet
      open
      onClose={onClose}
      title={like ? `A tour like “${like.name}”` : "New tour"}
      actions={
        <>
          <Button onClick={onClose}>Cancel</Button>
          <Button look="main" disabled={!post || begin.isPending} onClick={() => void go()}>
            Begin the tour
          </Button>
        </>
      }
    >
      {begin.error && <Warning>{begin.error.message}</Warning>}
      <p className="mb-3 text-sm text-soft">
        {like
          ? "It takes that tour’s wordings, channels and dates, and lines of its own post."
          : "A tour shares one post again and again over weeks or months, each time with another sentence of it. Nothing is planned before you launch it."}
      </p>
      <PostChoice site={site} label="Post that is out" value={post} onChange={setPost} />
    </Sheet>
  );
}
