import { useState } from "react";
import { Link, useParams } from "react-router";
import { AddButton } from "../../ui/AddButton";
import { Button } from "../../ui/Button";
import { Segments } from "../../ui/Segments";
import { useSay } from "../../ui/toast";
import { Trouble } from "../../ui/Trouble";
import { Waiting } from "../../ui/Waiting";
import { useChannels } from "../channels/channels";
import { useTell } from "../logbook/useTell";
import { usePlanner } from "../session/session";
import { OpeningsSheet } from "./OpeningsSheet";
import { PassedSheet } from "./PassedSheet";
import { PasteSheet } from "./PasteSheet";
import { bodyOf, isOpen, isReady, usePrepared, usePreparedDeeds, type Passed, type Row } from "./prepared";
import { PreparedRow } from "./PreparedRow";
import { PreparedSheet } from "./PreparedSheet";

const views = [
  { value: "open", name: "To do" },
  { value: "ready", name: "Ready" },
  { value: "past", name: "Past" },
  { value: "all", name: "All" },
] as const;

type View = (typeof views)[number]["value"];

const inView: Record<View, (row: Row) => boolean> = {
  open: (r) => isOpen(r) || isReady(r),
  ready: isReady,
  past: (r) => !isOpen(r) && !isReady(r),
  all: () => true,
};

const nothing: Record<View, string> = {
  open: "Nothing is being prepared. Add a message, or paste a whole sheet of them.",
  ready: "No message waits for its time.",
  past: "Nothing from this table has gone out yet.",
  all: "The table is empty. Add a message, or paste a whole sheet of them.",
};

/** Messages written beforehand: a table, one row a message. Ticking Ready releases a row. */
export default function PreparedScreen() {
  const { site = "" } = useParams();
  const table = usePrepared(site);
  const channels = useChannels(site).data?.channels ?? [];
  const editor = usePlanner(site);
  const deeds = usePreparedDeeds(site);
  const say = useSay();
  const tell = useTell(site);
  const [view, setView] = useState<View>("open");
  const [fresh, setFresh] = useState<number>();
  const [editing, setEditing] = useState<number>();
  const [sheet, setSheet] = useState<"paste" | "openings">();
  const [passed, setPassed] = useState<Row[]>();
  if (table.isPending) return <Waiting what="the table" />;
  if (table.error) return <Trouble error={table.error} retry={() => void table.refetch()} />;
  const { rows, openings, practice } = table.data;
  const shown = rows.filter(inView[view]);
  const finished = rows.filter((r) => isOpen(r) && !r.problem);
  const edited = rows.find((r) => r.id === editing);

  function release(chosen: Row[], choice?: Passed) {
    if (!choice && chosen.some((r) => r.passed)) return setPassed(chosen);
    setPassed(undefined);
    deeds.release
      .mutateAsync({ ids: chosen.map((r) => r.id), ...(choice ? { passed: choice } : {}) })
      .then(
        ({ released }) => tell(released === 1 ? "1 message is ready." : `${released} messages are ready.`),
        say.trouble,
      );
  }

  function add() {
    setView("open");
    deeds.add
      .mutateAsync([{ text: "", channels: channels.slice(0, 1).map((c) => c.id) }])
      .then(({ ids }) => setFresh(ids[0]), say.trouble);
  }

  return (
    <main className="mx-auto w-full max-w-6xl px-5 pt-4 pb-12">
      <p className="text-sm">
        <Link to={`/${site}/channels`} className="text-soft underline-offset-2 hover:underline">
          Channels
        </Link>
      </p>
      <div className="mb-1 flex flex-wrap items-center gap-3">
        <h1 className="font-title text-2xl">Prepared messages</h1>
        <span className="ml-auto" />
        <Segments label="Which messages" options={views} value={view} onChange={setView} />
        {editor && (
          <>
            <Button onClick={() => setSheet("paste")}>Paste a sheet…</Button>
            {finished.length > 1 && (
              <Button look="main" disabled={deeds.release.isPending} onClick={() => release(finished)}>
                Mark {finished.length} ready
              </Button>
            )}
          </>
        )}
      </div>
      <p className="mb-3 text-sm text-soft">
        Write them whenever you like. Tick <em>Ready</em>, and a message goes out at its time; without one, at
        the next opening: {openings.often}.{" "}
        {editor && (
          <button type="button" className="underline underline-offset-2" onClick={() => setSheet("openings")}>
            Change openings…
          </button>
        )}
      </p>
      {shown.length === 0 ? (
        <p className="mb-3 rounded-md border border-dashed border-strong px-3 py-3 text-sm text-soft">
          {nothing[view]}
        </p>
      ) : (
        <table className="mb-3 w-full table-fixed border-collapse text-sm max-md:block">
          <thead className="max-md:sr-only">
            <tr className="border-b border-line text-left text-xs text-soft">
              <th className="w-14 py-1 font-normal">Ready</th>
              <th className="py-1 pr-3 font-normal">Message</th>
              <th className="w-48 py-1 pr-3 font-normal">About</th>
              <th className="w-40 py-1 pr-3 font-normal">Channels</th>
              <th className="w-52 py-1 pr-3 font-normal">Goes out</th>
              <th className="w-20 py-1 text-right font-normal">
                <span className="sr-only">Actions</span>
              </th>
            </tr>
          </thead>
          <tbody className="max-md:block">
            {shown.map((row) => (
              <PreparedRow
                key={row.id}
                row={row}
                channels={channels}
                editor={editor}
                focused={row.id === fresh}
                onTick={(on) => {
                  if (on) release([row]);
                  else
                    deeds.withdraw
                      .mutateAsync([row.id])
                      .then(() => tell("Taken back. You can change it again."), say.trouble);
                }}
                onWrite={(text) =>
                  deeds.save
                    .mutateAsync({ ...bodyOf(row), text, id: row.id, version: row.version })
                    .catch(say.trouble)
                }
                onEdit={() => setEditing(row.id)}
                onCopy={() => {
                  const copied = bodyOf(row);
                  delete copied.at;
                  setView("open");
                  deeds.add
                    .mutateAsync([copied])
                    .then(() => say.done("Copied, without its time."), say.trouble);
                }}
                onDelete={() =>
                  deeds.remove.mutateAsync(row.id).then(() => say.done("Deleted."), say.trouble)
                }
              />
            ))}
          </tbody>
        </table>
      )}
      {editor && <AddButton onAdd={add}>Add a message</AddButton>}
      {edited && (
        <PreparedSheet
          key={edited.id}
          site={site}
          row={edited}
          channels={channels}
          practice={practice}
          onClose={() => setEditing(undefined)}
        />
      )}
      {sheet === "paste" && (
        <PasteSheet site={site} channels={channels} onClose={() => setSheet(undefined)} />
      )}
      {sheet === "openings" && (
        <OpeningsSheet site={site} openings={openings} onClose={() => setSheet(undefined)} />
      )}
      {passed && (
        <PassedSheet
          rows={passed.filter((r) => r.passed)}
          onChoose={(choice) => release(passed, choice)}
          onClose={() => setPassed(undefined)}
        />
      )}
    </main>
  );
}
