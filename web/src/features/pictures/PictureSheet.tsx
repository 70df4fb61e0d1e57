import { RefreshCw, Trash2, Undo2 } from "lucide-react";
import { useRef, useState } from "react";
import { Link } from "react-router";
import { Button } from "../../ui/Button";
import { Sheet } from "../../ui/Sheet";
import { TextArea } from "../../ui/TextArea";
import { useSay } from "../../ui/toast";
import { TroubleHere, Warning } from "../../ui/Trouble";
import { Waiting } from "../../ui/Waiting";
import { useDelete, useDescribe, usePicture, useReplace, useRestore, type Picture } from "./pictures";

/** One picture: what it shows, where it is used, another in its place, its end. */
export function PictureSheet({ site, id, onClose }: { site: string; id: number; onClose: () => void }) {
  const picture = usePicture(site, id);
  if (!picture.data) {
    return (
      <Sheet open onClose={onClose} title="Picture" actions={<Button onClick={onClose}>Close</Button>}>
        {picture.error ? (
          <TroubleHere error={picture.error} retry={() => void picture.refetch()} />
        ) : (
          <Waiting what="the picture" />
        )}
      </Sheet>
    );
  }
  return <Loaded site={site} picture={picture.data} onClose={onClose} />;
}

function Loaded({ site, picture, onClose }: { site: string; picture: Picture; onClose: () => void }) {
  const [alt, setAlt] = useState(picture.alt);
  const file = useRef<HTMLInputElement>(null);
  const describe = useDescribe(site, picture.id);
  const replace = useReplace(site, picture.id);
  const remove = useDelete(site);
  const restore = useRestore(site);
  const say = useSay();
  const used =
    picture.uses > 0 ||
    picture.logo ||
    picture.icon ||
    (picture.shows ?? []).length > 0 ||
    Boolean(picture.toSend);
  const error = describe.error ?? replace.error ?? remove.error ?? restore.error;

  // By promise: it may be undone from the notice, when this sheet is closed.
  function bringBack() {
    restore.mutateAsync(picture.id).then(() => say.done("Picture restored."), say.trouble);
  }
  function end() {
    remove.mutate(picture.id, {
      onSuccess: () => {
        onClose();
        say.done("Picture deleted.", { name: "Undo", go: bringBack });
      },
    });
  }
  return (
    <Sheet
      open
      onClose={onClose}
      wide
      title={picture.name || "Picture"}
      actions={
        picture.deleted ? (
          <>
            <Button onClick={onClose}>Close</Button>
            <Button look="main" icon={<Undo2 size={14} />} disabled={restore.isPending} onClick={bringBack}>
              Restore
            </Button>
          </>
        ) : (
          <>
            {!used && (
              <Button
                look="trouble"
                icon={<Trash2 size={14} />}
                className="mr-auto"
                disabled={remove.isPending}
                onClick={end}
              >
                Delete
              </Button>
            )}
            <Button
              icon={<RefreshCw size={14} />}
              disabled={replace.isPending}
              onClick={() => file.current?.click()}
            >
              {replace.isPending ? "Uploading…" : "Replace…"}
            </Button>
            <Button onClick={onClose}>Close</Button>
            <Button
              look="main"
              disabled={alt.trim() === picture.alt || describe.isPending}
              onClick={() => describe.mutate(alt.trim(), { onSuccess: () => say.done("Description saved.") })}
            >
              Save description
            </Button>
          </>
        )
      }
    >
      <input
        ref={file}
        type="file"
        aria-label="Another picture file"
        accept="image/jpeg,image/png,image/gif,image/webp"
        className="sr-only"
        tabIndex={-1}
        onChange={(e) => {
          const [next] = e.target.files ?? [];
          e.target.value = "";
          if (next)
            replace.mutate(next, {
              onSuccess: () => say.done("Picture replaced. Readers see the new one within ten minutes."),
            });
        }}
      />
      {error && <Warning>{error.message}</Warning>}
      <div className="grid gap-5 md:grid-cols-[1fr_20rem]">
        <img
          src={picture.small}
          alt={picture.alt}
          className="max-h-[50vh] w-full rounded-sm border border-line bg-sunk object-contain"
        />
        <div className="space-y-4">
          <TextArea
            label="What it shows"
            rows={4}
            value={alt}
            placeholder="not described"
            hint="Read out to those who do not see the picture. Posts that have it already keep what they say."
            onChange={(e) => setAlt(e.target.value)}
          />
          <section aria-labelledby="used">
            <h3 id="used" className="mb-1 text-sm font-semibold">
              Where it is used
            </h3>
            <Uses site={site} picture={picture} used={used} />
          </section>
          <p className="text-xs text-soft">
            {picture.width} × {picture.height} pixels
          </p>
        </div>
      </div>
    </Sheet>
  );
}

function Uses({ site, picture, used }: { site: string; picture: Picture; used: boolean }) {
  const listed = picture.usedIn ?? [];
  if (!used) {
    return (
      <p className="text-sm text-soft">
        {picture.deleted ? "Nowhere. It is deleted for good after 30 days." : "Nowhere. You can delete it."}
      </p>
    );
  }
  return (
    <ul className="list-disc space-y-0.5 pl-4 text-sm">
      {picture.logo && <li>The blog’s logo</li>}
      {picture.icon && <li>The blog’s icon</li>}
      {(picture.shows ?? []).map((name) => (
        <li key={name}>The picture of {name}</li>
      ))}
      {picture.toSend && (
        <li>{picture.toSend === 1 ? "1 planned message" : `${picture.toSend} planned messages`}</li>
      )}
      {listed.map((post) => (
        <li key={post.id}>
          <Link to={`/${site}/write/${post.id}`} className="underline">
            {post.title || "Untitled"}
          </Link>
        </li>
      ))}
      {picture.uses > listed.length && <li>{picture.uses - listed.length} more posts</li>}
    </ul>
  );
}
