import { ImagePlus, X } from "lucide-react";
import { useState } from "react";
import { Button, IconButton } from "../../ui/Button";
import { TextArea } from "../../ui/TextArea";
import type { Fields } from "./autosave";
import { PicturePicker } from "../pictures/PicturePicker";

type Props = {
  site: string;
  featured: Fields["featured"];
  error?: string | undefined;
  onChange: (featured: Fields["featured"]) => void;
};

/** The picture that stands for the post in lists and shares. */
export function FeaturedField({ site, featured, error, onChange }: Props) {
  const [choosing, setChoosing] = useState(false);
  return (
    <>
      {featured.address && (
        <>
          <div className="relative">
            <img
              src={featured.address}
              alt={featured.alt}
              className="aspect-3/2 w-full rounded-sm bg-sunk object-cover"
            />
            <IconButton
              label="Remove the featured image"
              className="absolute! top-1 right-1 bg-sheet!"
              onClick={() => onChange({ address: "", alt: "" })}
            >
              <X size={14} />
            </IconButton>
          </div>
          <TextArea
            label="What it shows"
            rows={2}
            value={featured.alt}
            onChange={(e) => onChange({ ...featured, alt: e.target.value })}
          />
        </>
      )}
      {error && (
        <p role="alert" className="text-xs text-madder">
          {error}
        </p>
      )}
      <Button icon={<ImagePlus size={14} />} onClick={() => setChoosing(true)}>
        {featured.address ? "Choose another…" : "Choose a picture…"}
      </Button>
      <PicturePicker
        site={site}
        open={choosing}
        onClose={() => setChoosing(false)}
        onChoose={(picture) => {
          setChoosing(false);
          onChange({ address: picture.address, alt: picture.alt });
        }}
      />
    </>
  );
}
