import { useRef, useState } from "react";
import { Refusal } from "../../api/client";
import { Button } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { shownPlace } from "../../ui/siteClock";
import { Sheet } from "../../ui/Sheet";
import { TextArea } from "../../ui/TextArea";
import { useSay } from "../../ui/toast";
import { Warning } from "../../ui/Trouble";
import { ChannelTicks } from "../channels/ChannelTicks";
import { base64Of, bodyOf, usePreparedDeeds, useRead } from "./prepared";

type Props = { site: string; channels: { id: number; name: string }[]; onClose: () => void };

/** Messages from a sheet: pasted, or from a file; shown as they were read before they are added. */
export function PasteSheet({ site, channels, onClose }: Props) {
  const [sheet, setSheet] = useState("");
  const [file, setFile] = useState<{ name: string; data: string }>();
  const [chosen, setChosen] = useState(channels.slice(0, 1).map((c) => c.id));
  const picker = useRef<HTMLInputElement>(null);
  const read = useRead(site);
  const { add } = usePreparedDeeds(site);
  const say = useSay();
  const rows = read.data?.rows;
  const refusal = read.error instanceof Refusal ? read.error : undefined;
  const pasted = file ? undefined : refusal?.field("sheet");
  const trouble = add.error ?? (pasted ? undefined : read.error);
  const look = (asked: Parameters<typeof read.mutateAsync>[0]) =>
    void read.mutateAsync(asked).catch(() => undefined);
  async function choose(one: File) {
    const data = await base64Of(one);
    setFile({ name: one.name, data });
    look({ file: data });
  }
  function back() {
    setFile(undefined);
    read.reset();
  }
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
              <Button onClick={back}>Back</Button>
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
              onClick={() => look({ sheet })}
            >
              Next
            </Button>
          )}
        </>
      }
    >
      {trouble && (
        <div className="mb-3">
          <Warning>
            {file && !add.error ? `${file.name}: ` : ""}
            {refusal?.field("sheet") ?? trouble.message}
          </Warning>
        </div>
      )}
      {file && read.data && read.data.sheets.length > 1 && (
        <div className="mb-3 flex items-center gap-3 text-sm">
          <span className="text-soft">Sheet of {file.name}</span>
          <Choice
            label="Sheet"
            className="w-56"
            value={read.data.sheet}
            options={read.data.sheets.map((name) => ({ value: name, name }))}
            onChange={(name) => look({ file: file.data, name })}
          />
        </div>
      )}
      {file && rows?.length === 0 && <p className="mb-3 text-sm">There is no row in this sheet.</p>}
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
            label="Cells copied from a sheet"
            hint="One row a message. The first row may say what the columns are: text, post, link, title, picture, date, time, channels."
            rows={10}
            value={sheet}
            error={pasted ?? (rows && !file ? "There is no row in it." : undefined)}
            placeholder={"text\tlink\tdate\ttime\nClear skies tonight {link}\thttps://…\t4 Dec\t17:30"}
            onChange={(e) => {
              setSheet(e.target.value);
              back();
            }}
          />
          <input
            ref={picker}
            type="file"
            aria-label="Sheet file"
            accept=".xlsx,.csv,.tsv,.txt,text/csv,text/tab-separated-values,text/plain,application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
            className="sr-only"
            tabIndex={-1}
            onChange={(e) => {
              const [one] = e.target.files ?? [];
              e.target.value = "";
              if (one) choose(one).catch(say.trouble);
            }}
          />
          <Button disabled={read.isPending} onClick={() => picker.current?.click()}>
            Choose an .xlsx or .csv file…
          </Button>
        </div>
      )}
    </Sheet>
  );
}
