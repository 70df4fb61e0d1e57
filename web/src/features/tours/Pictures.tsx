import { ImagePlus, X } from "lucide-react";
import { useState } from "react";
import { Button, IconButton } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { PicturePicker } from "../pictures/PicturePicker";
import { usePicture } from "../pictures/pictures";
import type { Settings } from "./tours";

const sources = [
  { value: "featured", name: "The post’s featured image" },
  { value: "text", name: "The first picture in the text" },
  { value: "none", name: "No picture" },
];

const most = 50;

function Small({ site, id }: { site: string; id: number }) {
  const picture = usePicture(site, id).data;
  if (!picture) return <span className="block size-16 rounded-sm bg-sunk" />;
  return (
    <img
      src={picture.small}
      alt={picture.alt || picture.name}
      className="size-16 rounded-sm bg-sunk object-cover"
    />
  );
}

type Props = {
  site: string;
  settings: Settings;
  problem: (path: string) => string | undefined;
  onChange: (change: Partial<Settings>) => void;
};

/** The pictures of a tour: some of the library, which take turns, or the post's own. */
export function Pictures({ site, settings, problem, onChange }: Props) {
  const [choosing, setChoosing] = useState(false);
  const chosen = settings.pictures ?? [];
  return (
    <div>
      <p className="mb-1 text-sm text-soft">{chosen.length > 1 ? "Pictures, which take turns" : "Picture"}</p>
      {chosen.length > 0 ? (
        <ul className="mb-2 flex flex-wrap gap-2">
          {chosen.map((id, i) => (
            <li key={id} className="relative">
              <Small site={site} id={id} />
              <IconButton
                label={`Remove picture ${i + 1}`}
                className="absolute! top-0.5 right-0.5 size-6! bg-sheet!"
                onClick={() => onChange({ pictures: chosen.filter((one) => one !== id) })}
              >
                <X size={12} />
              </IconButton>
            </li>
          ))}
        </ul>
      ) : (
        <div className="mb-2">
          <Choice
            label="Picture"
            value={settings.picture || "featured"}
            options={sources}
            onChange={(picture) => onChange({ picture })}
          />
        </div>
      )}
      {chosen.length < most && (
        <Button icon={<ImagePlus size={14} />} onClick={() => setChoosing(true)}>
          Add a picture…
        </Button>
      )}
      {problem("pictures") && (
        <p role="alert" className="mt-1 text-xs text-madder">
          {problem("pictures")}
        </p>
      )}
      {choosing && (
        <PicturePicker
          site={site}
          open
          onClose={() => setChoosing(false)}
          onChoose={(picture) => {
            setChoosing(false);
            if (!chosen.includes(picture.id)) onChange({ pictures: [...chosen, picture.id] });
          }}
        />
      )}
    </div>
  );
}
