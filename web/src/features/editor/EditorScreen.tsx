import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useState, useSyncExternalStore } from "react";
import { useParams } from "react-router";
import { Trouble } from "../../ui/Trouble";
import { Waiting } from "../../ui/Waiting";
import { useSession } from "../session/session";
import { AddressField } from "./AddressField";
import { Autosave, type Post } from "./autosave";
import { Conflict } from "./Conflict";
import { useOpenedPost } from "./editor";
import { Margin } from "./Margin";
import { SaveState } from "./SaveState";
import { SeeIt } from "./SecretLinks";
import { Writing } from "./Writing";

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
  const role = useSession().data?.sites.find((s) => s.slug === site)?.role;
  const [autosave] = useState(
    () => new Autosave(site, opened, (post) => queries.setQueryData(["plan", site, "post", post.id], post)),
  );
  useEffect(() => autosave.start(), [autosave]);
  const state = useSyncExternalStore(autosave.subscribe, autosave.snapshot);
  const { fields, errors } = state;

  return (
    <main className="mx-auto flex w-full max-w-400 min-w-0 flex-1 flex-col gap-x-8 gap-y-4 px-5 pt-3 pb-8 lg:flex-row">
      <section aria-label="Text" className="flex min-w-0 flex-1 flex-col">
        <div className="flex items-center gap-3">
          <SaveState state={state} />
          <span className="ml-auto">
            <SeeIt site={site} autosave={autosave} />
          </span>
        </div>
        <h1 className="sr-only">{fields.title || "Untitled"}</h1>
        {state.theirs && <Conflict site={site} autosave={autosave} state={state} theirs={state.theirs} />}
        <textarea
          aria-label="Title"
          rows={1}
          aria-invalid={Boolean(errors.title)}
          aria-describedby={errors.title ? "title-error" : undefined}
          placeholder="Title"
          autoFocus={!opened.title}
          dir="auto"
          value={fields.title}
          onChange={(e) => autosave.edit({ title: e.target.value.replaceAll(/\s*\n\s*/g, " ") })}
          onKeyDown={(e) => {
            if (e.key === "Enter") e.preventDefault();
          }}
          className="field-sizing-content w-full resize-none rounded-md border border-transparent bg-transparent py-1 font-title text-2xl placeholder:text-faint aria-invalid:border-madder aria-invalid:px-2"
        />
        {errors.title && (
          <p id="title-error" role="alert" className="text-sm text-madder">
            {errors.title}
          </p>
        )}
        <AddressField site={site} autosave={autosave} state={state} />
        <Writing site={site} autosave={autosave} state={state} />
      </section>
      <Margin site={site} autosave={autosave} state={state} editor={role !== "contributor"} />
    </main>
  );
}
