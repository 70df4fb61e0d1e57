import { useEffect, useState, type FormEvent } from "react";
import { Refusal } from "../../api/client";
import { Button } from "../../ui/Button";
import { hhmm } from "../../ui/civil";
import { Choice } from "../../ui/Choice";
import { DateField } from "../../ui/DateField";
import { Field, TextField } from "../../ui/Field";
import { TimeField } from "../../ui/TimeField";
import { Warning } from "../../ui/Trouble";
import { isDate, isTime } from "../../ui/typed";
import { showWrong } from "../../ui/useFormOf";
import { useTell } from "../logbook/useTell";
import { useTopics } from "../blog/topics";
import { TagsField } from "../editor/TagsField";
import { usePeople } from "../blog/people";
import { useQuickEdit, type Listed, type QuickChange } from "./posts";

type Props = { site: string; post: Listed; editor: boolean; onDone: () => void };

const less = (tags: string[], others: string[]) => tags.filter((t) => !others.includes(t));

/** Changes what a list shows of a post, in its place. */
export function QuickEdit({ site, post, editor, onDone }: Props) {
  const [title, setTitle] = useState(post.title);
  const [slug, setSlug] = useState(post.slug);
  const [categoryId, setCategoryId] = useState(post.categoryId);
  const [authorId, setAuthorId] = useState(post.authorId);
  const [tags, setTags] = useState(post.tags);
  const topics = useTopics(site).data;
  const people = usePeople(site).data;
  const save = useQuickEdit(site, post.id, editor);
  const tell = useTell(site);
  const movable = post.can.includes("retime");
  const [date, setDate] = useState(post.when?.date ?? "");
  const [time, setTime] = useState(post.when ? hhmm(post.when.minute) : "");
  const refusal = save.error instanceof Refusal ? save.error : undefined;
  const authors = (people ?? []).map((p) => ({ value: p.id, name: p.name }));
  if (!authors.some((a) => a.value === post.authorId))
    authors.push({ value: post.authorId, name: post.author });

  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if (e.key === "Escape" && !e.defaultPrevented) onDone();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [onDone]);

  function submit(event: FormEvent) {
    event.preventDefault();
    if ((date !== "" && !(isDate(date) && isTime(time))) || (time !== "" && !isTime(time))) {
      showWrong();
      return;
    }
    const when = date && time ? { date, time } : undefined;
    const retimed = when && (date !== post.when?.date || time !== (post.when && hhmm(post.when.minute)));
    const added = less(tags, post.tags);
    const removed = less(post.tags, tags);
    const change: QuickChange = {
      ...(title !== post.title ? { title } : {}),
      ...(slug !== post.slug ? { slug } : {}),
      ...(categoryId !== post.categoryId ? { categoryId } : {}),
      ...(authorId !== post.authorId ? { authorId } : {}),
      ...(added.length + removed.length > 0 ? { tags: { all: tags, added, removed } } : {}),
      ...(retimed ? { at: { date, clock: time } } : {}),
    };
    if (Object.keys(change).length === 0) return onDone();
    save.mutate(
      { version: post.version, change },
      {
        onSuccess: () => {
          tell(`“${title}” is saved.`);
          onDone();
        },
      },
    );
  }

  return (
    <form
      onSubmit={submit}
      aria-label={`Quick edit of ${post.title || "the post"}`}
      className="grid gap-x-3 gap-y-2 border-l-4 border-tape bg-sheet px-3 py-2 md:grid-cols-[2fr_1fr_1fr_1.2fr_auto]"
    >
      {save.error && !refusal?.problem.errors && (
        <div className="md:col-span-5">
          <Warning>{save.error.message}</Warning>
        </div>
      )}
      <div className="space-y-2">
        <TextField
          label="Title"
          autoFocus
          dir="auto"
          value={title}
          error={refusal?.field("title")}
          onChange={(e) => setTitle(e.target.value)}
        />
        {movable && (
          <div className="flex gap-2">
            <DateField
              label="Date"
              optional
              placeholder="no date"
              value={date}
              error={refusal?.field("at")}
              onChange={setDate}
            />
            <TimeField
              label="Time"
              value={time}
              error={date && !time ? "Enter a time, such as 9:40." : undefined}
              onChange={setTime}
            />
          </div>
        )}
        <TextField
          label="Address"
          value={slug}
          placeholder="made from the title"
          error={refusal?.field("slug")}
          onChange={(e) => setSlug(e.target.value)}
        />
      </div>
      <Field label="Category" error={refusal?.field("categoryId") ?? refusal?.field("category")}>
        <Choice
          label="Category"
          value={categoryId}
          options={[
            { value: 0, name: "None" },
            ...(topics?.categories ?? []).map((c) => ({ value: c.id, name: c.name })),
          ]}
          onChange={setCategoryId}
        />
      </Field>
      {editor ? (
        <Field label="Author" error={refusal?.field("authorId")}>
          <Choice label="Author" value={authorId} options={authors} onChange={setAuthorId} />
        </Field>
      ) : (
        <span />
      )}
      <TagsField
        tags={tags}
        known={topics?.tagNames ?? []}
        error={refusal?.field("tags")}
        onChange={setTags}
      />
      <div className="flex items-start gap-2 pt-5.5">
        <Button type="submit" look="main" disabled={save.isPending}>
          Save
        </Button>
        <Button onClick={onDone}>Cancel</Button>
      </div>
    </form>
  );
}
