import { FileUp } from "lucide-react";
import { useRef, useState, type DragEvent } from "react";
import { useNavigate } from "react-router";
import { Button } from "../../ui/Button";
import { useSay } from "../../ui/toast";
import { useImportDeeds } from "./imports";
import { chosen, dropped, nameOf, send, type Piece } from "./upload";

/** Where files are dropped or chosen. Once all have arrived, it leads on to what is done with them. */
export function DropZone({ site }: { site: string }) {
  const say = useSay();
  const navigate = useNavigate();
  const { begin, remove } = useImportDeeds(site);
  const files = useRef<HTMLInputElement>(null);
  const folder = useRef<HTMLInputElement>(null);
  const stop = useRef<AbortController>(null);
  const [done, setDone] = useState<number>();
  const [over, setOver] = useState(false);

  async function bring(pieces: Piece[]) {
    if (pieces.length === 0) return;
    const ending = new AbortController();
    stop.current = ending;
    setDone(0);
    let id: number | undefined;
    try {
      ({ id } = await begin.mutateAsync(nameOf(pieces)));
      await send(site, id, pieces, setDone, ending.signal);
      await navigate(`/${site}/import/${id}`);
    } catch (error) {
      if (id !== undefined) remove.mutate(id); // half of the files are of no use
      if (!ending.signal.aborted) say.trouble(error);
    } finally {
      setDone(undefined);
    }
  }

  const drop = (event: DragEvent) => {
    event.preventDefault();
    setOver(false);
    void dropped(event.dataTransfer).then(bring, say.trouble);
  };
  if (done !== undefined) {
    const percent = Math.round(done * 100);
    return (
      <div className="rounded-md border border-dashed border-strong px-4 py-6 text-sm">
        <p role="status" className="mb-2 tabular-nums">
          Uploading… {percent} %
        </p>
        <div className="mb-3 h-2 overflow-hidden rounded-full bg-sunk">
          <div className="h-full bg-ink" style={{ width: `${percent}%` }} />
        </div>
        <Button onClick={() => stop.current?.abort()}>Cancel</Button>
      </div>
    );
  }
  return (
    <div
      onDragOver={(event) => {
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={drop}
      className={`rounded-md border border-dashed px-4 py-6 text-sm ${over ? "border-ink bg-sunk" : "border-strong"}`}
    >
      <p className="mb-3 flex items-center gap-2 text-base">
        <FileUp size={18} aria-hidden className="text-soft" />
        Drop an archive, a folder, articles or a sheet here.
      </p>
      <div className="mb-3 flex flex-wrap gap-2">
        <Button look="main" onClick={() => files.current?.click()}>
          Choose files…
        </Button>
        <Button onClick={() => folder.current?.click()}>Choose a folder…</Button>
      </div>
      <p className="text-xs text-soft">
        Articles: .md, .txt, .html, .docx, or a .zip of them with their pictures. Sheets: .xlsx, .csv or .tsv,
        with a .zip of pictures beside it if rows name any. Up to 256 MB together.
      </p>
      <input
        ref={files}
        type="file"
        multiple
        aria-label="Files to import"
        accept=".zip,.md,.markdown,.txt,.html,.htm,.docx,.xlsx,.csv,.tsv,.jpg,.jpeg,.png,.gif,.webp"
        className="sr-only"
        tabIndex={-1}
        onChange={(e) => {
          const pieces = chosen(e.target.files);
          e.target.value = "";
          void bring(pieces);
        }}
      />
      <input
        ref={folder}
        type="file"
        aria-label="Folder to import"
        className="sr-only"
        tabIndex={-1}
        {...{ webkitdirectory: "" }}
        onChange={(e) => {
          const pieces = chosen(e.target.files);
          e.target.value = "";
          void bring(pieces);
        }}
      />
    </div>
  );
}
