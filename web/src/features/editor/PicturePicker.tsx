import { ImagePlus } from "lucide-react";
import { useRef } from "react";
import { Button } from "../../ui/Button";
import { Sheet } from "../../ui/Sheet";
import { Warning } from "../../ui/Trouble";
import { useBring, usePictures, type Picture } from "./pictures";

type Props = {
  site: string;
  open: boolean;
  onClose: () => void;
  onChoose: (picture: Picture, fresh: boolean) => void;
};

/** The blog's pictures: one is chosen, or a new one is brought. */
export function PicturePicker({ site, open, onClose, onChoose }: Props) {
  const pictures = usePictures(site, open);
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
            {bringing.busy ? "Bringing it…" : "Bring a picture"}
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
      {pictures.data && all.length === 0 && (
        <p className="py-6 text-center text-soft">No pictures yet. Bring one, or drop one on the text.</p>
      )}
      <ul className="grid grid-cols-3 gap-3 sm:grid-cols-4">
        {all.map((p) => (
          <li key={p.id}>
            <button
              type="button"
              onClick={() => onChoose(p, false)}
              aria-label={`Choose ${p.alt || p.name}`}
              className="block w-full rounded-md border border-line p-1 text-left hover:border-ink"
            >
              <img
                src={p.small}
                alt=""
                loading="lazy"
                className="aspect-3/2 w-full rounded-sm bg-sunk object-cover"
              />
              <span className="mt-1 block truncate text-xs text-soft">{p.alt || p.name}</span>
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
          Show older ones
        </Button>
      )}
    </Sheet>
  );
}
