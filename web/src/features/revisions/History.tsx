import { useQuery } from "@tanstack/react-query";
import { useMutation } from "../../api/mutation";
import { useState } from "react";
import { answer, api, Refusal, type Schemas } from "../../api/client";
import { useRefresh } from "../../api/live";
import { Button } from "../../ui/Button";
import { TextField } from "../../ui/Field";
import { Sheet } from "../../ui/Sheet";
import { shownPlace } from "../../ui/siteClock";
import { useSay } from "../../ui/toast";
import { TroubleHere } from "../../ui/Trouble";
import { useTell } from "../logbook/useTell";
import { Differences } from "./Differences";

type Version = Schemas["TextVersion"];
type Post = Schemas["Post"];

function useVersions(site: string, post: number) {
  return useQuery({
    queryKey: ["plan", site, "texts", post],
    queryFn: () =>
      answer(api.GET("/api/v1/sites/{site}/posts/{id}/texts", { params: { path: { site, id: post } } })),
    enabled: post !== 0,
  });
}

type Props = {
  site: string;
  post: number;
  editor: boolean;
  /** Saves what is being written, and answers with the version of the post then. */
  before: () => Promise<number>;
  onDone: (post: Post) => void;
};

/** Every version of a post's text: who wrote it, when, what it changed; named, and brought back. */
export function History({ site, post, editor, before, onDone }: Props) {
  const [open, setOpen] = useState(false);
  return (
    <>
      <Button onClick={() => setOpen(true)}>Show the history…</Button>
      {open && (
        <HistorySheet
          site={site}
          post={post}
          editor={editor}
          before={before}
          onDone={onDone}
          onClose={() => setOpen(false)}
        />
      )}
    </>
  );
}

function HistorySheet({ site, post, editor, before, onDone, onClose }: Props & { onClose: () => void }) {
  const versions = useVersions(site, post);
  const all = versions.data?.texts ?? [];
  const [chosen, setChosen] = useState<number>();
  const shown = all.find((v) => v.id === chosen) ?? all[0];
  const older = shown && all[all.indexOf(shown) + 1];
  const say = useSay();
  const tell = useTell(site);
  const restore = useMutation({
    mutationFn: async (v: Version) =>
      answer(
        api.POST("/api/v1/sites/{site}/posts/{id}/texts/{text}/restore", {
          params: { path: { site, id: post, text: v.id } },
          body: { version: await before() },
        }),
      ),
    onSuccess: (saved) => {
      onDone(saved);
      tell("The post says again what it said then.");
      onClose();
    },
    onError: say.trouble,
  });
  return (
    <Sheet
      open
      wide
      onClose={onClose}
      title="History"
      actions={
        <>
          <Button onClick={onClose}>Close</Button>
          {editor && shown && !shown.live && (
            <Button look="main" disabled={restore.isPending} onClick={() => restore.mutate(shown)}>
              Restore this version
            </Button>
          )}
        </>
      }
    >
      {versions.error && <TroubleHere error={versions.error} retry={() => void versions.refetch()} />}
      {shown && (
        <div className="grid gap-5 md:grid-cols-[15rem_1fr]">
          <ol aria-label="Versions" className="max-h-[60vh] space-y-0.5 overflow-y-auto">
            {all.map((v) => (
              <li key={v.id}>
                <button
                  type="button"
                  aria-current={v.id === shown.id ? "true" : undefined}
                  onClick={() => setChosen(v.id)}
                  className={`w-full rounded-md px-2 py-1 text-left text-sm ${v.id === shown.id ? "bg-ink text-ground" : "hover:bg-sunk"}`}
                >
                  <span className="flex justify-between gap-2 tabular-nums">
                    <span>{shownPlace(v.at)}</span>
                    {v.live && <span>now</span>}
                  </span>
                  {v.name && <span className="block font-semibold">{v.name}</span>}
                  <span className={`block truncate text-xs ${v.id === shown.id ? "" : "text-soft"}`}>
                    {[v.who, `${v.words} words`].filter(Boolean).join(" · ")}
                  </span>
                </button>
              </li>
            ))}
          </ol>
          <div className="min-w-0 space-y-3">
            {shown.why && <p className="text-sm text-soft">{shown.why}</p>}
            {editor && <NameOf key={shown.id} site={site} post={post} version={shown} />}
            {older ? (
              <Compared site={site} post={post} from={older.id} to={shown.id} />
            ) : (
              <p className="text-sm text-soft">The first version that is kept.</p>
            )}
          </div>
        </div>
      )}
    </Sheet>
  );
}

function Compared({ site, post, from, to }: { site: string; post: number; from: number; to: number }) {
  const compared = useQuery({
    queryKey: ["plan", site, "texts", post, from, to],
    queryFn: () =>
      answer(
        api.GET("/api/v1/sites/{site}/posts/{id}/texts/{text}/differences", {
          params: { path: { site, id: post, text: from }, query: { to } },
        }),
      ),
    staleTime: Infinity, // versions never change
  });
  if (compared.error) return <TroubleHere error={compared.error} retry={() => void compared.refetch()} />;
  if (!compared.data) return <p className="text-sm text-soft">Loading…</p>;
  return <Differences all={compared.data.differences} />;
}

function NameOf({ site, post, version }: { site: string; post: number; version: Version }) {
  const [name, setName] = useState(version.name ?? "");
  const refresh = useRefresh(site);
  const say = useSay();
  const save = useMutation({
    mutationFn: () =>
      answer(
        api.PUT("/api/v1/sites/{site}/posts/{id}/texts/{text}/name", {
          params: { path: { site, id: post, text: version.id } },
          body: { name },
        }),
      ),
    onSuccess: () => {
      refresh("plan");
      say.done("Named.");
    },
    onError: (error) => (error instanceof Refusal && error.problem.errors ? undefined : say.trouble(error)),
  });
  return (
    <form
      className="flex items-end gap-2"
      onSubmit={(e) => {
        e.preventDefault();
        save.mutate();
      }}
    >
      <div className="w-64">
        <TextField
          label="Name of this version"
          placeholder="none"
          value={name}
          error={save.error instanceof Refusal ? save.error.field("name") : undefined}
          onChange={(e) => setName(e.target.value)}
        />
      </div>
      <Button type="submit" disabled={name === (version.name ?? "") || save.isPending}>
        Save the name
      </Button>
    </form>
  );
}
