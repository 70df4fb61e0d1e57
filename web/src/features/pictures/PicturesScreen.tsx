import { ImagePlus } from "lucide-react";
import { useRef, useState } from "react";
import { Link, useParams } from "react-router";
import { Button } from "../../ui/Button";
import { TextField } from "../../ui/Field";
import { TroubleHere } from "../../ui/Trouble";
import { useSettled } from "../../ui/useSettled";
import { AltSheet } from "./AltSheet";
import { PictureSheet } from "./PictureSheet";
import { titles, useBring, usedIn, usePictures, type Only, type Picture } from "./pictures";

const filters: { only: Only; name: string; none: string }[] = [
  { only: "", name: "All pictures", none: "" },
  { only: "undescribed", name: "Not described", none: "Every picture has a description." },
  { only: "unused", name: "Not used", none: "Every picture is used somewhere." },
  { only: "deleted", name: "Deleted", none: "No pictures have been deleted in the last 30 days." },
];

/** The blog's pictures: what they show, where they are used, and which nobody needs. */
export default function PicturesScreen() {
  const { site = "" } = useParams();
  const [text, setText] = useState("");
  const [only, setOnly] = useState<Only>("");
  const [open, setOpen] = useState<number>();
  const [fresh, setFresh] = useState<Picture[]>([]);
  const find = useSettled(text.trim(), 250);
  const pictures = usePictures(site, find, true, only);
  const bringing = useBring(site);
  const file = useRef<HTMLInputElement>(null);
  const all = pictures.data?.pages.flatMap((p) => p.pictures) ?? [];
  const filter = filters.find((f) => f.only === only);
  return (
    <main className="mx-auto flex w-full max-w-400 flex-col gap-x-6 gap-y-3 px-5 pt-4 pb-10 md:flex-row">
      <nav
        aria-label="Which pictures"
        className="flex gap-1 overflow-x-auto md:w-40 md:shrink-0 md:flex-col md:overflow-visible"
      >
        {filters.map((f) => (
          <button
            key={f.only}
            type="button"
            aria-current={f.only === only ? "true" : undefined}
            onClick={() => setOnly(f.only)}
            className={`shrink-0 rounded-md px-2 py-1 text-left text-sm whitespace-nowrap ${f.only === only ? "bg-ink text-ground" : "hover:bg-sunk"}`}
          >
            {f.name}
          </button>
        ))}
        <Link
          to={`/${site}/posts`}
          className="shrink-0 rounded-md px-2 py-1 text-sm text-soft hover:bg-sunk hover:text-ink md:mt-3"
        >
          Back to posts
        </Link>
      </nav>
      <section aria-label="Pictures" className="min-w-0 flex-1">
        <div className="mb-4 flex flex-wrap items-end gap-3">
          <h1 className="mr-auto font-title text-2xl">Pictures</h1>
          <div className="w-72 max-w-full">
            <TextField
              label="Find a picture"
              hideLabel
              type="search"
              placeholder="File name, or what it shows"
              maxLength={200}
              value={text}
              onChange={(e) => setText(e.target.value)}
            />
          </div>
          <Button
            look="main"
            icon={<ImagePlus size={14} />}
            disabled={bringing.busy}
            onClick={() => file.current?.click()}
          >
            {bringing.busy ? "Uploading…" : "Upload pictures"}
          </Button>
          <input
            ref={file}
            type="file"
            multiple
            aria-label="Picture files"
            accept="image/jpeg,image/png,image/gif,image/webp"
            className="sr-only"
            tabIndex={-1}
            onChange={(e) => {
              const files = [...(e.target.files ?? [])];
              e.target.value = "";
              void bringing.bring(files, (picture) => setFresh((f) => [...f, picture]));
            }}
          />
        </div>
        {pictures.error && !pictures.data && (
          <TroubleHere error={pictures.error} retry={() => void pictures.refetch()} />
        )}
        {pictures.data && all.length === 0 && (
          <p role="status" className="py-10 text-center text-soft">
            {find
              ? "No pictures match."
              : filter?.none ||
                "No pictures yet. Upload some here, or drop one on the text of a post; posts, the logo and people can show them."}
          </p>
        )}
        <ul className="grid grid-cols-2 gap-3 sm:grid-cols-3 lg:grid-cols-5 xl:grid-cols-6">
          {all.map((p) => (
            <li key={p.id}>
              <button
                type="button"
                onClick={() => setOpen(p.id)}
                className="block w-full rounded-md border border-line bg-sheet p-1 text-left hover:border-ink"
              >
                <img
                  src={p.small}
                  alt=""
                  loading="lazy"
                  className={`aspect-3/2 w-full rounded-sm bg-sunk object-cover ${p.deleted ? "opacity-40" : ""}`}
                />
                <span className={`mt-1 block truncate px-0.5 text-xs ${p.alt ? "" : "text-madder"}`}>
                  {p.alt || "Not described"}
                </span>
                <span className="block truncate px-0.5 text-xs text-soft" title={titles(p)}>
                  {usedIn(p)}
                </span>
              </button>
            </li>
          ))}
        </ul>
        {pictures.hasNextPage && (
          <Button
            look="quiet"
            className="mt-3"
            disabled={pictures.isFetchingNextPage}
            onClick={() => void pictures.fetchNextPage()}
          >
            Show older
          </Button>
        )}
      </section>
      {open !== undefined && (
        <PictureSheet key={open} site={site} id={open} onClose={() => setOpen(undefined)} />
      )}
      {fresh[0] && open === undefined && (
        <AltSheet
          key={fresh[0].id}
          site={site}
          picture={fresh[0]}
          onDone={() => {
            setFresh((f) => f.slice(1));
            void pictures.refetch();
          }}
        />
      )}
    </main>
  );
}
