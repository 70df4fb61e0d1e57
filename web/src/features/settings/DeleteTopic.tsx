import { useState, type ReactNode } from "react";
import { Refusal } from "../../api/client";
import { Button } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { Field } from "../../ui/Field";
import { Sheet } from "../../ui/Sheet";
import { useSay } from "../../ui/toast";
import { Warning } from "../../ui/Trouble";
import type { useDeleteCategory, Category } from "../blog/categories";
import { lensesOf, named } from "./CategorySheet";

/** A category or a tag, with what refers to it. */
export type Topic = Pick<Category, "id" | "name" | "posts" | "rules" | "lenses">;

type Props<T extends Topic> = {
  topic: T;
  others: T[];
  kind: "category" | "tag";
  remove: ReturnType<typeof useDeleteCategory>;
  /** What to choose for: which of the others its posts get, and what it is called to choose none. */
  choice: { field: string; label: string; none: string };
  /** What is said where other posts have it by now. */
  stale: string;
  /** What becomes of its posts, and of what else refers to it; other is what it is merged into. */
  posts: (said: string, other: T | undefined) => string;
  more?: (other: T | undefined) => ReactNode;
  onClose: () => void;
};

/** Deletes a category or a tag, or merges it into another, after saying what becomes of all that refers to it. */
export function DeleteTopic<T extends Topic>(props: Props<T>) {
  const { topic, others, kind, remove, choice, onClose } = props;
  const [into, setInto] = useState(0);
  const say = useSay();
  const other = others.find((o) => o.id === into);
  const stale = remove.error instanceof Refusal && remove.error.status === 409;
  const running = topic.rules.filter((r) => r.armed);
  return (
    <Sheet
      open
      onClose={onClose}
      title={`Delete or merge ${topic.name}`}
      actions={
        <>
          <Button onClick={onClose}>Cancel</Button>
          <Button
            look="trouble"
            disabled={remove.isPending}
            onClick={() =>
              // By promise: the list may be without it, and this sheet gone, before it is told.
              remove.mutateAsync({ into, posts: topic.posts }).then(
                () => {
                  onClose();
                  say.done(other ? `Merged into ${other.name}.` : `${topic.name} was deleted.`);
                },
                () => undefined,
              )
            }
          >
            {other ? `Merge into ${other.name}` : `Delete this ${kind}`}
          </Button>
        </>
      }
    >
      {remove.error && <Warning>{stale ? props.stale : remove.error.message}</Warning>}
      <div className="mb-4 w-72 max-w-full">
        <Field label={choice.field}>
          <Choice
            label={choice.label}
            value={into}
            options={[{ value: 0, name: choice.none }, ...others.map((o) => ({ value: o.id, name: o.name }))]}
            onChange={setInto}
          />
        </Field>
      </div>
      <ul className="list-disc space-y-1 pl-5">
        <li>{props.posts(topic.posts === 1 ? "1 post" : `${topic.posts} posts`, other)}</li>
        <li>
          {other
            ? `Old links to ${topic.name} lead on to ${other.name}.`
            : `Old links to ${topic.name} lead nowhere.`}
        </li>
        {props.more?.(other)}
        {topic.rules.length > 0 && (
          <li>
            {other
              ? `Rules that name it will name ${other.name}, and so apply to its posts too: ${named(topic)}.`
              : `Rules that name it no longer find its posts: ${named(topic)}.`}
            {running.length > 0 &&
              ` ${running.length === 1 ? "The one that is on waits" : "Those that are on wait"} for your decision before the next run.`}
          </li>
        )}
        {topic.lenses > 0 && <li>{lensesOf(topic.lenses, other?.name)}</li>}
      </ul>
    </Sheet>
  );
}
