import { useState } from "react";
import { Button } from "../../ui/Button";
import { TextField } from "../../ui/Field";
import { Trouble } from "../../ui/Trouble";
import { useSettled } from "../../ui/useSettled";
import { Waiting } from "../../ui/Waiting";
import { useTags } from "../blog/tags";
import { usePlanner } from "../session/session";
import { DeleteTag } from "./DeleteTag";
import { RenameTag } from "./RenameTag";

/** The blog's tags: renamed, merged, deleted. They are made in the editor. */
export function TagSettings({ site }: { site: string }) {
  const [text, setText] = useState("");
  const find = useSettled(text.trim(), 250);
  const tags = useTags(site, find);
  const editor = usePlanner(site);
  const [open, setOpen] = useState<{ id: number; to: "rename" | "delete" }>();
  if (tags.isPending) return <Waiting what="the tags" />;
  if (tags.error) return <Trouble error={tags.error} retry={() => void tags.refetch()} />;
  const chosen = tags.data.tags.find((t) => t.id === open?.id);
  const none = tags.data.tags.length === 0;
  return (
    <>
      <div className="mb-4 flex flex-wrap items-end gap-3">
        <h1 className="mr-auto font-title text-2xl">Tags</h1>
        {(!none || text !== "") && (
          <div className="w-72 max-w-full">
            <TextField
              label="Find a tag"
              hideLabel
              type="search"
              placeholder="A part of its name"
              maxLength={200}
              value={text}
              onChange={(e) => setText(e.target.value)}
            />
          </div>
        )}
      </div>
      {none && (
        <p
          role="status"
          className="rounded-md border border-dashed border-strong px-3 py-4 text-sm text-soft"
        >
          {find
            ? "No tags match."
            : "There are no tags yet. Add some to a post in the editor: a tag is made when it is first used."}
        </p>
      )}
      {!none && (
        <ul className="divide-y divide-line rounded-md border border-line bg-sheet">
          {tags.data.tags.map((t) => (
            <li key={t.id} className="flex min-h-11 flex-wrap items-center gap-x-2 px-3 py-1.5">
              <p className="min-w-44 flex-1">
                <span className="font-semibold" dir="auto">
                  {t.name}
                </span>{" "}
                <span className="text-sm text-soft">
                  · {t.posts === 1 ? "1 post" : t.posts ? `${t.posts} posts` : "no posts"}
                  {t.rules.length > 0 && ` · ${t.rules.length === 1 ? "1 rule" : `${t.rules.length} rules`}`}
                </span>
              </p>
              {editor && (
                <>
                  <Button
                    look="quiet"
                    aria-label={`Rename ${t.name}…`}
                    onClick={() => setOpen({ id: t.id, to: "rename" })}
                  >
                    Rename…
                  </Button>
                  <Button
                    look="quiet"
                    aria-label={`Delete or merge ${t.name}…`}
                    onClick={() => setOpen({ id: t.id, to: "delete" })}
                  >
                    Delete or merge…
                  </Button>
                </>
              )}
            </li>
          ))}
        </ul>
      )}
      {tags.data.more && <p className="mt-3 text-sm text-soft">There are more. Type a part of a name.</p>}
      {chosen && open?.to === "rename" && (
        <RenameTag site={site} tag={chosen} onClose={() => setOpen(undefined)} />
      )}
      {chosen && open?.to === "delete" && (
        <DeleteTag site={site} tag={chosen} onClose={() => setOpen(undefined)} />
      )}
    </>
  );
}
