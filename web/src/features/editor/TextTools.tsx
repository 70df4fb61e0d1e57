import { useRef, useState } from "react";
import { AltSheet } from "../pictures/AltSheet";
import { PicturePicker } from "../pictures/PicturePicker";
import { inMarkdown, useBring, type Picture } from "../pictures/pictures";
import { LinkSheet } from "./LinkSheet";
import { link, type Change } from "./markup";
import type { TextHandle } from "./MarkdownText";

/**
 * What the toolbar and the field of one text share: what is selected in it, pictures that are dropped on it, and the
 * sheets for links and pictures.
 */
export function useTextTools(site: string) {
  const text = useRef<TextHandle>(null);
  const [choosing, setChoosing] = useState(false);
  const [linking, setLinking] = useState(false);
  const [asking, setAsking] = useState<{ picture: Picture; instead: string }[]>([]);
  const bringing = useBring(site);

  function take(files: File[]) {
    for (const file of files) {
      const waiting = `![Uploading ${file.name.replaceAll(/[[\]\n]/g, " ")}…]()`;
      text.current?.insert(waiting);
      void bringing.bring(
        [file],
        (picture) => {
          text.current?.replace(waiting, inMarkdown(picture));
          setAsking((all) => [...all, { picture, instead: inMarkdown(picture) }]);
        },
        () => text.current?.replace(waiting, ""),
      );
    }
  }

  function described(picture: Picture) {
    const first = asking[0];
    if (first) text.current?.replace(first.instead, inMarkdown(picture));
    setAsking((all) => all.slice(1));
    text.current?.focus();
  }

  return {
    /** Whether a picture is being uploaded. */
    busy: bringing.busy,
    toolbar: {
      onChange: (change: Change) => text.current?.change(change),
      onLink: () => setLinking(true),
      onPicture: () => setChoosing(true),
    },
    area: { onFiles: take, onLink: () => setLinking(true), handleRef: text },
    sheets: (
      <>
        <PicturePicker
          site={site}
          open={choosing}
          onClose={() => setChoosing(false)}
          onChoose={(picture, fresh) => {
            setChoosing(false);
            text.current?.insert(inMarkdown(picture));
            if (fresh) setAsking((all) => [...all, { picture, instead: inMarkdown(picture) }]);
          }}
        />
        {linking && (
          <LinkSheet
            site={site}
            onClose={() => setLinking(false)}
            onLink={(address, words) => {
              setLinking(false);
              text.current?.change(link(address, words));
            }}
          />
        )}
        {asking[0] && (
          <AltSheet key={asking[0].picture.id} site={site} picture={asking[0].picture} onDone={described} />
        )}
      </>
    ),
  };
}
