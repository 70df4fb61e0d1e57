import { ImagePlus } from "lucide-react";
import { useRef, useState } from "react";
import { Button } from "../../ui/Button";
import { TextField } from "../../ui/Field";
import { Sheet } from "../../ui/Sheet";
import { Warning } from "../../ui/Trouble";
import { useSettled } from "../../ui/useSettled";
import { titles, useBring, usedIn, usePictures, type Picture } from "./pictures";

type Props = {
  site: string;
  open: boolean;
  onClose: () => void;
  onChoose: (picture: Picture, fresh: boolean) => void;
};

/** The blog's pictures: one is found and chosen, or a new one is uploaded. */
export function PicturePicker({ site, open, onClose, onChoose }: Props) {
  const [text, setText] = useState("");
  const find = useSettled(text.trim(), 250);
  const pictures = usePictures(site, find, open);
  const bringing = useBring(site);
  const file = useRef<HTMLInputElement>(null);
  const all = pictures.data?.pages.flatMap((p) => p.pictures) ?? [];
  return (
    <Sheet
      open={open}
      onClose={onClose}
      title="Pictures"
      actions={
        <>
          <Button onClick={onClose}>Close</Button>
          <Button
            look="main"
            icon={<ImagePlus size={14} />}
            disabled={bringing.busy}
            onClick={() => file.current?.click()}
          >
            {bringing.busy ? "Uploading…" : "Upload a picture"}
          </Button>
        </>
      }
    >
      <input
        ref={file}
        type="file"
        aria-label="Picture file"
        accept="image/jpeg,image/png,image/gif,image/webp"
        className="sr-only"
        tabIndex={-1}
        onChange={(e) => {
          const files = [...(e.target.files ?? [])].slice(0, 1);
          e.target.value = "";
          void bringing.bring(files, (picture) => onChoose(picture, true));
        }}
      />
      {pictures.error && <Warning>{pictures.error.message}</Warning>}
      {(all.length > 0 || text !== "") && (
        <div className="mb-3 w-72 max-w-full">
          <TextField
            label="Find a picture"
            type="search"
            placeholder="File name, or what it shows"
            maxLength={200}
            value={text}
            onChange={(e) => setText(e.target.value)}
          />
        </div>
      )}
      {pictures.data && all.length === 0 && (
        <p role="status" className="py-6 text-center text-soft">
          {find
            ? "No pictures match."
            : "No pictures yet. Upload one here, or drop one on the text of a post."}
        </p>
      )}
      <ul className="grid grid-cols-3 gap-3 sm:grid-cols-4">
        {all.map((p) => (
          <li key={p.id}>
            <button
              type="button"
              onClick={() => onChoose(p, false)}
              aria-label={`Choose ${p.alt || p.name}. ${usedIn(p)}.`}
              className="block w-full rounded-md border border-line p-1 text-left hover:border-ink"
            >
              <img
                src={p.small}
                alt=""
                loading="lazy"
                className="aspect-3/2 w-full rounded-sm bg-sunk object-cover"
              />
              <span className="mt-1 block truncate text-xs">{p.alt || "Not described"}</span>
              <span className="block truncate text-xs text-soft" title={p.name}>
                {p.name}
              </span>
              <span className="block truncate text-xs text-soft" title={titles(p)}>
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
    </Sheet>
  );
}
