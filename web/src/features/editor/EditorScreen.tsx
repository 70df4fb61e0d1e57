import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useState, useSyncExternalStore } from "react";
import { useParams } from "react-router";
import { inputLook } from "../../ui/Field";
import { Trouble } from "../../ui/Trouble";
import { Waiting } from "../../ui/Waiting";
import { Autosave, type Post } from "./autosave";
import { Conflict } from "./Conflict";
import { useOpenedPost } from "./editor";
import { Margin } from "./Margin";
import { SaveState } from "./SaveState";

/** The post editor. What is written is saved by itself. */
export default function EditorScreen() {
  const { site = "", id = "" } = useParams();
  const opened = useOpenedPost(site, Number(id));
  if (opened.isPending) return <Waiting what="the post" />;
  if (opened.error) return <Trouble error={opened.error} retry={() => void opened.refetch()} />;
  return <Editor key={id} site={site} opened={opened.data} />;
}

function Editor({ site, opened }: { site: string; opened: Post }) {
  const queries = useQueryClient();
  const [autosave] = useState(
    () => new Autosave(site, opened, (post) => queries.setQueryData(["plan", site, "post", post.id], post)),
  );
  useEffect(() => autosave.start(), [autosave]);
  const state = useSyncExternalStore(autosave.subscribe, autosave.snapshot);
  const { fields, errors } = state;

  return (
    <main className="mx-auto flex w-full max-w-6xl min-w-0 flex-1 gap-8 px-5 pt-4 pb-8">
      <section aria-label="Text" className="flex min-w-0 flex-1 flex-col">
        <SaveState state={state} />
        {state.theirs && (
          <Conflict state={state} theirs={state.theirs} onChoose={(c) => autosave.resolve(c)} />
        )}
        <input
          aria-label="Title"
          aria-invalid={Boolean(errors.title)}
          aria-describedby={errors.title ? "title-error" : undefined}
          placeholder="Title"
          autoFocus={!opened.title}
          value={fields.title}
          onChange={(e) => autosave.edit({ title: e.target.value })}
          className="mt-1 w-full rounded-md border border-transparent bg-transparent py-1 font-title text-2xl placeholder:text-faint aria-invalid:border-madder aria-invalid:px-2"
        />
        {errors.title && (
          <p id="title-error" role="alert" className="text-sm text-madder">
            {errors.title}
          </p>
        )}
        <textarea
          aria-label="Text, in Markdown"
          aria-invalid={Boolean(errors.body)}
          placeholder="Write in Markdown."
          value={fields.body}
          onChange={(e) => autosave.edit({ body: e.target.value })}
          className={`${inputLook} mt-2 min-h-96 flex-1 resize-none px-4! py-3 text-lg!`}
        />
        {errors.body && (
          <p role="alert" className="mt-1 text-sm text-madder">
            {errors.body}
          </p>
        )}
        {state.post.notes.map((note) => (
          <p
            key={note}
            role="status"
            className="mt-2 rounded-md border border-madder px-3 py-2 text-sm text-madder"
          >
            {note}
          </p>
        ))}
      </section>
      <Margin site={site} autosave={autosave} state={state} />
    </main>
  );
}
