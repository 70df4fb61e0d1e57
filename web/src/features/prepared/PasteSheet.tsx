import { useRef, useState } from "react";
import { Refusal } from "../../api/client";
import { Button } from "../../ui/Button";
import { shownPlace } from "../../ui/siteClock";
import { Sheet } from "../../ui/Sheet";
import { TextArea } from "../../ui/TextArea";
import { useSay } from "../../ui/toast";
import { Warning } from "../../ui/Trouble";
import { ChannelTicks } from "../channels/ChannelTicks";
import { bodyOf, usePreparedDeeds, useRead } from "./prepared";

type Props = { site: string; channels: { id: number; name: string }[]; onClose: () => void };

/** Messages from a sheet: pasted, or from a file; shown as they were read before they are added. */
export function PasteSheet({ site, channels, onClose }: Props) {
  const [sheet, setSheet] = useState("");
  const [chosen, setChosen] = useState(channels.slice(0, 1).map((c) => c.id));
  const file = useRef<HTMLInputElement>(null);
  const read = useRead(site);
  const { add } = usePreparedDeeds(site);
  const say = useSay();
  const rows = read.data?.rows;
  const refusal = read.error instanceof Refusal ? read.error : undefined;
  const trouble = add.error ?? (refusal?.field("sheet") ? undefined : read.error);
  const nameOf = (id: number) => channels.find((c) => c.id === id)?.name;

  return (
    <Sheet
      open
      wide
      onClose={onClose}
      title="Messages from a sheet"
      actions={
        <>
          <Button onClick={onClose}>Cancel</Button>
          {rows && rows.length > 0 ? (
            <>
              <Button onClick={() => read.reset()}>Back</Button>
              <Button
                look="main"
                disabled={add.isPending}
                onClick={() =>
                  add
                    .mutateAsync(
                      rows.map((r) =>
                        bodyOf({ ...r, channels: r.channels.length > 0 ? r.channels : chosen }),
                      ),
                    )
                    .then(
                      ({ ids }) => {
                        say.done(ids.length === 1 ? "1 message added." : `${ids.length} messages added.`);
                        onClose();
                      },
                      () => undefined,
                    )
                }
              >
                {rows.length === 1 ? "Add 1 message" : `Add ${rows.length} messages`}
              </Button>
            </>
          ) : (
            <Button
              look="main"
              disabled={sheet.trim() === "" || read.isPending}
              onClick={() => void read.mutateAsync(sheet).catch(() => undefined)}
            >
              Next
            </Button>
          )}
        </>
      }
    >
      {trouble && <Warning>{trouble.message}</Warning>}
      {rows && rows.length > 0 ? (
        <>
          <div className="mb-3">
            <p className="text-sm text-soft">Rows that name no channel go to</p>
            <ChannelTicks channels={channels} chosen={chosen} onChange={setChosen} />
          </div>
          <ol className="divide-y divide-line border-y border-line">
            {rows.map((r, i) => (
              <li key={i} className="py-1.5 text-sm">
                <p className="wrap-anywhere whitespace-pre-wrap">
                  {r.text || <span className="text-faint">no text</span>}
                </p>
                <p className="text-xs text-soft">
                  {[
                    r.place ? shownPlace(r.place) : "at the next opening",
                    r.postTitle || r.title || r.link,
                    r.channels.map(nameOf).join(", "),
                  ]
                    .filter(Boolean)
                    .join(" · ")}
                </p>
                {r.problem && <p className="text-xs text-madder">{r.problem}</p>}
              </li>
            ))}
          </ol>
        </>
      ) : (
        <div className="space-y-3">
          <TextArea
            label="Cells copied from a sheet, or the text of a .csv file"
            hint="One row a message. The first row may say what the columns are: text, post, link, title, picture, date, time, channels."
            rows={10}
            value={sheet}
            error={refusal?.field("sheet") ?? (rows ? "There is no row in it." : undefined)}
            placeholder={"text\tlink\tdate\ttime\nClear skies tonight {link}\thttps://…\t4 Dec\t17:30"}
            onChange={(e) => {
              setSheet(e.target.value);
              read.reset();
            }}
          />
          <input
            ref={file}
            type="file"
            aria-label="Sheet file"
            accept=".csv,.tsv,.txt,text/csv,text/tab-separated-values,text/plain"
            className="sr-only"
            tabIndex={-1}
            onChange={(e) => {
              const [one] = e.target.files ?? [];
              e.target.value = "";
              void one?.text().then(setSheet);
            }}
          />
          <Button onClick={() => file.current?.click()}>Choose a .csv file…</Button>
        </div>
      )}
    </Sheet>
  );
}
