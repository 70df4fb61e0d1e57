import { ImagePlus, X } from "lucide-react";
import { useState } from "react";
import { Button, IconButton } from "../../ui/Button";
import { PicturePicker } from "./PicturePicker";
import type { Schemas } from "../../api/client";

type Shown = Schemas["Shown"];

type Props = {
  site: string;
  label: string;
  hint: string;
  picture: Shown | undefined;
  owner: boolean;
  error: string | undefined;
  onChange: (picture: Shown | undefined) => void;
};

/** A picture that is shown on every page of the blog, or none. */
export function ShownPicture({ site, label, hint, picture, owner, error, onChange }: Props) {
  const [choosing, setChoosing] = useState(false);
  const choose = picture ? "Choose another…" : "Choose a picture…";
  return (
    <fieldset>
      <legend className="mb-1 text-sm text-soft">{label}</legend>
      {picture ? (
        <div className="relative w-40">
          <img
            src={picture.small}
            alt={picture.alt ?? ""}
            className="h-24 w-full rounded-sm bg-sunk object-contain"
          />
          {owner && (
            <IconButton
              label={`Remove the ${label.toLowerCase()}`}
              className="absolute! top-1 right-1 bg-sheet!"
              onClick={() => onChange(undefined)}
            >
              <X size={14} />
            </IconButton>
          )}
        </div>
      ) : (
        <p className="text-base text-faint">none</p>
      )}
      {owner && (
        <Button
          className="mt-2"
          icon={<ImagePlus size={14} />}
          aria-label={`${choose} (${label.toLowerCase()})`}
          onClick={() => setChoosing(true)}
        >
          {choose}
        </Button>
      )}
      <p className="mt-1 text-xs text-faint">{hint}</p>
      {error && (
        <p role="alert" className="mt-1 text-xs text-madder">
          {error}
        </p>
      )}
      <PicturePicker
        site={site}
        open={choosing}
        onClose={() => setChoosing(false)}
        onChoose={({ id, small, alt }) => {
          setChoosing(false);
          onChange({ id, small, alt });
        }}
      />
    </fieldset>
  );
}
