import { useState } from "react";
import { Refusal } from "../../api/client";
import { Button } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { Field } from "../../ui/Field";
import { Sheet } from "../../ui/Sheet";
import { useSay } from "../../ui/toast";
import { Warning } from "../../ui/Trouble";
import { useDeleteCategory, type Category } from "../blog/categories";
import { lensesOf, named } from "./CategorySheet";

type Props = { site: string; category: Category; others: Category[]; onClose: () => void };

/** Deletes a category or merges it into another, after saying what becomes of all that refers to it. */
export function DeleteCategory({ site, category, others, onClose }: Props) {
  const [into, setInto] = useState(0);
  const remove = useDeleteCategory(site, category.id);
  const say = useSay();
  const other = others.find((c) => c.id === into);
  const stale = remove.error instanceof Refusal && remove.error.status === 409;
  const posts = category.posts === 1 ? "1 post" : `${category.posts} posts`;
  const running = category.rules.filter((r) => r.armed);
  return (
    <Sheet
      open
      onClose={onClose}
      title={`Delete or merge ${category.name}`}
      actions={
        <>
          <Button onClick={onClose}>Cancel</Button>
          <Button
            look="trouble"
            disabled={remove.isPending}
            onClick={() =>
              remove.mutate(
                { into, posts: category.posts },
                {
                  onSuccess: () => {
                    onClose();
                    say.done(other ? `Merged into ${other.name}.` : `${category.name} was deleted.`);
                  },
                },
              )
            }
          >
            {other ? `Merge into ${other.name}` : "Delete this category"}
          </Button>
        </>
      }
    >
      {remove.error && (
        <Warning>
          {stale
            ? "Posts were put into this category, or taken out of it, meanwhile. Look at the numbers again."
            : remove.error.message}
        </Warning>
      )}
      <div className="mb-4 w-72 max-w-full">
        <Field label={category.posts > 0 ? `Its ${posts} go to` : "Merge into"}>
          <Choice
            label={category.posts > 0 ? "Where its posts go" : "Merge into"}
            value={into}
            options={[
              { value: 0, name: category.posts > 0 ? "No category" : "None" },
              ...others.map((c) => ({ value: c.id, name: c.name })),
            ]}
            onChange={setInto}
          />
        </Field>
      </div>
      <ul className="list-disc space-y-1 pl-5">
        <li>
          {category.posts === 0
            ? "No posts are in it."
            : other
              ? `Its ${posts} will be in ${other.name}, drafts and the bin included.`
              : `Its ${posts} will be in no category, drafts and the bin included.`}
        </li>
        <li>
          {other
            ? `Old links to ${category.name} lead on to ${other.name}.`
            : `Old links to ${category.name} lead nowhere.`}
        </li>
        {category.openings > 0 && (
          <li>
            {other
              ? `What the rhythm reserves for it is reserved for ${other.name}.`
              : "An opening that is reserved for it alone will be open to all posts."}
          </li>
        )}
        {category.rules.length > 0 && (
          <li>
            {other
              ? `Rules that name it will name ${other.name}, and so apply to its posts too: ${named(category)}.`
              : `Rules that name it no longer find its posts: ${named(category)}.`}
            {running.length > 0 &&
              ` ${running.length === 1 ? "The one that is on waits" : "Those that are on wait"} for your decision before the next run.`}
          </li>
        )}
        {category.lenses > 0 && <li>{lensesOf(category.lenses, other?.name)}</li>}
      </ul>
    </Sheet>
  );
}
