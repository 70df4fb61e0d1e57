import { useState } from "react";
import { Refusal } from "../../api/client";
import { Button } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { Field } from "../../ui/Field";
import { Sheet } from "../../ui/Sheet";
import { useSay } from "../../ui/toast";
import { Warning } from "../../ui/Trouble";
import { useDeleteTag, useTags, type Tag } from "../blog/tags";
import { lensesOf, named } from "./CategorySheet";

type Props = { site: string; tag: Tag; onClose: () => void };

/** Deletes a tag or merges it into another, after saying what becomes of all that refers to it. */
export function DeleteTag({ site, tag, onClose }: Props) {
  const [into, setInto] = useState(0);
  const others = (useTags(site, "").data?.tags ?? []).filter((t) => t.id !== tag.id);
  const remove = useDeleteTag(site, tag.id);
  const say = useSay();
  const other = others.find((t) => t.id === into);
  const stale = remove.error instanceof Refusal && remove.error.status === 409;
  const posts = tag.posts === 1 ? "1 post" : `${tag.posts} posts`;
  const running = tag.rules.filter((r) => r.armed);
  return (
    <Sheet
      open
      onClose={onClose}
      title={`Delete or merge ${tag.name}`}
      actions={
        <>
          <Button onClick={onClose}>Cancel</Button>
          <Button
            look="trouble"
            disabled={remove.isPending}
            onClick={() =>
              remove.mutate(
                { into, posts: tag.posts },
                {
                  onSuccess: () => {
                    onClose();
                    say.done(other ? `Merged into ${other.name}.` : `${tag.name} was deleted.`);
                  },
                },
              )
            }
          >
            {other ? `Merge into ${other.name}` : "Delete this tag"}
          </Button>
        </>
      }
    >
      {remove.error && (
        <Warning>
          {stale
            ? "Posts were given this tag, or lost it, meanwhile. Look at the numbers again."
            : remove.error.message}
        </Warning>
      )}
      <div className="mb-4 w-72 max-w-full">
        <Field label="Merge into">
          <Choice
            label="Merge into"
            value={into}
            options={[{ value: 0, name: "None" }, ...others.map((t) => ({ value: t.id, name: t.name }))]}
            onChange={setInto}
          />
        </Field>
      </div>
      <ul className="list-disc space-y-1 pl-5">
        <li>
          {tag.posts === 0
            ? "No posts have it."
            : other
              ? `Its ${posts} will have ${other.name} instead, drafts and the bin included.`
              : `Its ${posts} will do without it, drafts and the bin included.`}
        </li>
        <li>
          {other
            ? `Old links to ${tag.name} lead on to ${other.name}.`
            : `Old links to ${tag.name} lead nowhere.`}
        </li>
        {tag.rules.length > 0 && (
          <li>
            {other
              ? `Rules that name it will name ${other.name}, and so apply to its posts too: ${named(tag)}.`
              : `Rules that name it no longer find its posts: ${named(tag)}.`}
            {running.length > 0 &&
              ` ${running.length === 1 ? "The one that is on waits" : "Those that are on wait"} for your decision before the next run.`}
          </li>
        )}
        {tag.lenses > 0 && <li>{lensesOf(tag.lenses, other?.name)}</li>}
      </ul>
    </Sheet>
  );
}
