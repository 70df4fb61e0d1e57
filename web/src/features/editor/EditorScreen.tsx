import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useState, useSyncExternalStore } from "react";
import { useLocation, useNavigate, useParams } from "react-router";
import { Trouble } from "../../ui/Trouble";
import { useSteady } from "../../ui/useSteady";
import { Waiting } from "../../ui/Waiting";
import { usePost } from "../post/post";
import { useSession } from "../session/session";
import { AddressField } from "./AddressField";
import { useCommands } from "../../ui/commands";
import { Autosave, newPost, type Post } from "./autosave";
import { Conflict } from "./Conflict";
import { useOpenedPost } from "./editor";
import { LinkField, LinkItemText } from "./LinkField";
import { Margin } from "./Margin";
import { SaveState } from "./SaveState";
import { SeeIt } from "./SecretLinks";
import { TitleField } from "./TitleField";
import { Writing } from "./Writing";

/** The post editor. What is written is saved by itself. */
export default function EditorScreen() {
  const { site = "", id = "" } = useParams();
  const { key } = useLocation();
  // A new draft gets its number while one writes; its editor stays as it is then.
  const [begun, setBegun] = useState({ id: "", key: "" });
  if (id === "new" || (begun.id === id && begun.key !== ""))
    return (
      <NewEditor key={id === "new" ? key : begun.key} site={site} onBegun={(n) => setBegun({ id: n, key })} />
    );
  return <OpenedEditor key={id} site={site} id={Number(id)} />;
}

function OpenedEditor({ site, id }: { site: string; id: number }) {
  const opened = useOpenedPost(site, id);
  if (opened.isPending) return <Waiting what="the post" />;
  if (opened.error) return <Trouble error={opened.error} retry={() => void opened.refetch()} />;
  return <Editor site={site} opened={opened.data} />;
}

function NewEditor({ site, onBegun }: { site: string; onBegun: (id: string) => void }) {
  const me = useSession().data;
  const navigate = useNavigate();
  if (!me) return null;
  return (
    <Editor
      site={site}
      opened={newPost(me)}
      onBegun={(id) => {
        onBegun(String(id));
        void navigate(`/${site}/write/${id}`, { replace: true });
      }}
    />
  );
}

type EditorProps = { site: string; opened: Post; onBegun?: (id: number) => void };

function Editor({ site, opened, onBegun }: EditorProps) {
  const queries = useQueryClient();
  const role = useSession().data?.sites.find((s) => s.slug === site)?.role;
  const [autosave] = useState(
    () => new Autosave(site, opened, (post) => queries.setQueryData(["plan", site, "post", post.id], post)),
  );
  useEffect(() => autosave.start(), [autosave]);
  useCommands([{ name: "Save now", group: "Do", keys: "Ctrl S", run: () => void autosave.flush() }]);
  const state = useSyncExternalStore(autosave.subscribe, autosave.snapshot);
  const { id } = state.post;
  // What is done to the post elsewhere, or undone, reaches the open editor.
  const live = usePost(site, id).data;
  useEffect(() => {
    if (live) autosave.hear(live);
  }, [autosave, live]);
  const begin = useSteady((begunId: number) => onBegun?.(begunId));
  useEffect(() => {
    if (id !== opened.id) begin(id);
  }, [id, opened.id, begin]);
  const { fields, errors } = state;

  return (
    <main className="mx-auto flex w-full max-w-400 min-w-0 flex-1 flex-col gap-x-8 gap-y-4 px-5 pt-3 pb-8 lg:flex-row">
      <section aria-label="Text" className="flex min-w-0 flex-1 flex-col">
        <div className="flex items-center gap-3">
          <SaveState state={state} />
          <span className="ml-auto">
            {fields.kind !== "link" && <SeeIt site={site} autosave={autosave} />}
          </span>
        </div>
        <h1 className="sr-only">{fields.title || "Untitled"}</h1>
        {state.theirs && <Conflict site={site} autosave={autosave} state={state} theirs={state.theirs} />}
        <TitleField
          value={fields.title}
          error={errors.title}
          autoFocus={!opened.title}
          onChange={(title) => autosave.edit({ title })}
        />
        {fields.kind === "link" ? (
          <LinkField autosave={autosave} state={state} />
        ) : (
          <AddressField site={site} autosave={autosave} state={state} />
        )}
        {fields.kind === "link" ? (
          <LinkItemText autosave={autosave} state={state} />
        ) : (
          <Writing site={site} autosave={autosave} state={state} />
        )}
      </section>
      <Margin site={site} autosave={autosave} state={state} editor={role !== "contributor"} />
    </main>
  );
}
