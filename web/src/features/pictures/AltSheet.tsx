import { useState } from "react";
import { Button } from "../../ui/Button";
import { Sheet } from "../../ui/Sheet";
import { TextArea } from "../../ui/TextArea";
import { useSay } from "../../ui/toast";
import { describe, type Picture } from "./pictures";

type Props = { site: string; picture: Picture; onDone: (picture: Picture) => void };

/** Asks what a picture shows, for those who do not see it. */
export function AltSheet({ site, picture, onDone }: Props) {
  const [alt, setAlt] = useState(picture.alt);
  const [busy, setBusy] = useState(false);
  const say = useSay();
  async function keep(text: string) {
    setBusy(true);
    try {
      onDone(text === picture.alt ? picture : await describe(site, picture, text));
    } catch (error) {
      say.trouble(error);
      setBusy(false);
    }
  }
  return (
    <Sheet
      open
      onClose={() => onDone(picture)}
      title="What does it show?"
      actions={
        <>
          <Button disabled={busy} onClick={() => void keep("")}>
            It’s only decoration
          </Button>
          <Button look="main" disabled={busy || alt.trim() === ""} onClick={() => void keep(alt.trim())}>
            Save description
          </Button>
        </>
      }
    >
      <div className="flex gap-4">
        <img
          src={picture.small}
          alt=""
          className="max-h-56 max-w-64 rounded-sm border border-line object-contain"
        />
        <div className="flex-1">
          <TextArea
            label="In words"
            rows={4}
            autoFocus
            value={alt}
            hint="Read out to those who do not see the picture, and shown where it cannot be loaded. A sentence is enough."
            onChange={(e) => setAlt(e.target.value)}
          />
        </div>
      </div>
    </Sheet>
  );
}
