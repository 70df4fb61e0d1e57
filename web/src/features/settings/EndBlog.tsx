import { Archive, ArchiveRestore, Trash2 } from "lucide-react";
import { useState } from "react";
import { Refusal } from "../../api/client";
import { Button } from "../../ui/Button";
import { TextField } from "../../ui/Field";
import { Part } from "../../ui/Part";
import { Sheet } from "../../ui/Sheet";
import { useSay } from "../../ui/toast";
import { Warning } from "../../ui/Trouble";
import { useArchive, useDeleteBlog, type Blog } from "./blog";

/** An owner takes the blog out of readers' sight, or deletes it. */
export function EndBlog({ site, blog }: { site: string; blog: Blog }) {
  const [asking, setAsking] = useState<"archive" | "delete">();
  const archive = useArchive(site);
  const say = useSay();
  return (
    <Part title="Close the blog" hint="Archiving can be taken back at any time. Deleting can’t.">
      <div className="flex flex-wrap gap-2">
        {blog.archived ? (
          <Button
            icon={<ArchiveRestore size={14} />}
            disabled={archive.isPending}
            onClick={() =>
              archive.mutate(false, {
                onSuccess: () => say.done("The blog is back. It stays paused until you resume it."),
                onError: say.trouble,
              })
            }
          >
            Bring it back
          </Button>
        ) : (
          <Button icon={<Archive size={14} />} onClick={() => setAsking("archive")}>
            Archive this blog…
          </Button>
        )}
        <Button look="trouble" icon={<Trash2 size={14} />} onClick={() => setAsking("delete")}>
          Delete this blog…
        </Button>
      </div>
      <Sheet
        open={asking === "archive"}
        onClose={() => setAsking(undefined)}
        title={`Archive ${blog.title}`}
        actions={
          <>
            <Button onClick={() => setAsking(undefined)}>Cancel</Button>
            <Button
              look="main"
              disabled={archive.isPending}
              onClick={() =>
                archive.mutate(true, {
                  onSuccess: () => {
                    setAsking(undefined);
                    say.done("The blog is archived.");
                  },
                  onError: say.trouble,
                })
              }
            >
              Archive this blog
            </Button>
          </>
        }
      >
        <ul className="list-disc space-y-1 pl-5">
          <li>Readers are told that the blog is closed, at every address of it, feeds too.</li>
          <li>Nothing comes out: no post, no message, no rule runs.</li>
          <li>
            Everything stays here, and you can bring the blog back. It is paused then, until you resume it.
          </li>
        </ul>
      </Sheet>
      {asking === "delete" && <DeleteSheet site={site} blog={blog} onClose={() => setAsking(undefined)} />}
    </Part>
  );
}

function DeleteSheet({ site, blog, onClose }: { site: string; blog: Blog; onClose: () => void }) {
  const [title, setTitle] = useState("");
  const remove = useDeleteBlog(site);
  const refusal = remove.error instanceof Refusal ? remove.error : undefined;
  const wrong = refusal?.problem.errors?.[0]?.message;
  return (
    <Sheet
      open
      onClose={onClose}
      title={`Delete ${blog.title}`}
      actions={
        <>
          <Button onClick={onClose}>Cancel</Button>
          <Button look="trouble" disabled={remove.isPending} onClick={() => remove.mutate(title)}>
            Delete this blog for good
          </Button>
        </>
      }
    >
      {remove.error && !wrong && <Warning>{remove.error.message}</Warning>}
      <p className="mb-3">
        All its posts, pictures, rules and its logbook are deleted, and can’t be brought back. People keep
        their accounts.
      </p>
      <p className="mb-3">
        Take a copy first:{" "}
        <a href={`/api/v1/sites/${site}/copy.zip`} download className="underline underline-offset-2">
          download the blog
        </a>{" "}
        as a zip of Markdown files and pictures.
      </p>
      <div className="max-w-md">
        <TextField
          label={`To confirm, type the title: ${blog.title}`}
          autoComplete="off"
          value={title}
          error={wrong}
          onChange={(e) => setTitle(e.target.value)}
        />
      </div>
    </Sheet>
  );
}
