import { Download } from "lucide-react";
import { useState } from "react";
import { Link } from "react-router";
import { Button } from "../../ui/Button";
import { Segments } from "../../ui/Segments";
import { Sheet } from "../../ui/Sheet";
import { shownPlace } from "../../ui/siteClock";
import { TroubleHere } from "../../ui/Trouble";
import { Waiting } from "../../ui/Waiting";
import { LineView } from "./LineView";
import {
  linesTable,
  lineSaid,
  useLine,
  useLines,
  type Line,
  type LineState,
  type WholeImport,
} from "./imports";

const order: LineState[] = [
  "ready",
  "update",
  "landed",
  "updated",
  "left",
  "clash",
  "same",
  "undone",
  "kept",
];

/** The lines of an import by what becomes of them. */
export function Lines({ site, of: i }: { site: string; of: WholeImport }) {
  const there = order.filter((s) => i.counts[s] > 0);
  const [wanted, setWanted] = useState<LineState>();
  const [after, setAfter] = useState<number[]>([0]);
  const [shown, setShown] = useState<number>();
  const state = wanted && there.includes(wanted) ? wanted : there[0];
  const mark = `${i.state} ${i.version} ${state ? i.counts[state] : 0}`;
  const page = useLines(site, i.id, state, after.at(-1) ?? 0, mark);
  if (there.length === 0) return null;
  const timeOf = new Map(i.times?.map((t) => [t.nr, t.at]));
  return (
    <section aria-label="Lines">
      <div className="mb-2 flex flex-wrap items-center gap-3">
        <Segments
          label="Lines"
          value={state ?? "ready"}
          options={there.map((s) => ({ value: s, name: `${lineSaid[s]} ${i.counts[s]}` }))}
          onChange={(s) => {
            setWanted(s);
            setAfter([0]);
          }}
        />
        <a
          href={linesTable(site, i.id, state)}
          download
          className="ml-auto inline-flex h-8 items-center gap-1.5 text-sm text-soft hover:text-ink"
        >
          <Download size={14} aria-hidden /> These lines as .csv
        </a>
      </div>
      {page.isPending ? (
        <Waiting what="the lines" />
      ) : page.error ? (
        <TroubleHere error={page.error} retry={() => void page.refetch()} />
      ) : (
        <Table site={site} lines={page.data.lines} timeOf={timeOf} onShow={setShown} />
      )}
      <div className="mt-2 flex gap-2">
        {after.length > 1 && <Button onClick={() => setAfter(after.slice(0, -1))}>Earlier lines</Button>}
        {page.data?.next && (
          <Button onClick={() => setAfter([...after, page.data.next!])}>Further lines</Button>
        )}
      </div>
      {shown !== undefined && <One site={site} id={i.id} nr={shown} onClose={() => setShown(undefined)} />}
    </section>
  );
}

type TableProps = {
  site: string;
  lines: Line[];
  timeOf: Map<number, { date: string; minute: number }>;
  onShow: (nr: number) => void;
};

function Table({ site, lines, timeOf, onShow }: TableProps) {
  return (
    <table className="w-full table-fixed text-left text-sm">
      <thead className="border-b border-line text-xs text-soft">
        <tr>
          <th className="w-44 py-1 pr-3 font-normal max-md:w-24">Where</th>
          <th className="py-1 pr-3 font-normal">Title</th>
          <th className="w-[45%] py-1 font-normal">Why, and what was done</th>
        </tr>
      </thead>
      <tbody>
        {lines.map((l) => (
          <tr key={l.nr} className="border-b border-line align-top">
            <td className="py-1.5 pr-3 wrap-anywhere text-soft tabular-nums">{l.place}</td>
            <td className="py-1.5 pr-3 wrap-anywhere">
              <Title site={site} line={l} onShow={onShow} />
              {timeOf.has(l.nr) && (
                <span className="block text-soft tabular-nums">{shownPlace(timeOf.get(l.nr)!)}</span>
              )}
            </td>
            <td className="py-1.5 wrap-anywhere text-soft">
              {l.reason && (
                <p className={l.state === "left" || l.state === "clash" ? "text-ink" : ""}>{l.reason}</p>
              )}
              {l.notes.map((n) => (
                <p key={n}>{n}</p>
              ))}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Title({ site, line: l, onShow }: { site: string; line: Line; onShow: (nr: number) => void }) {
  const name = l.title || "Untitled";
  if (l.state === "ready" || l.state === "update") {
    return (
      <button
        type="button"
        className="text-left font-semibold underline-offset-2 hover:underline"
        onClick={() => onShow(l.nr)}
      >
        {name}
      </button>
    );
  }
  if (l.post && l.state !== "undone") {
    return (
      <Link to={`/${site}/write/${l.post}`} className="font-semibold underline-offset-2 hover:underline">
        {name}
      </Link>
    );
  }
  return <>{name}</>;
}

/** What one line becomes. */
function One({ site, id, nr, onClose }: { site: string; id: number; nr: number; onClose: () => void }) {
  const line = useLine(site, id, nr);
  return (
    <Sheet
      open
      wide
      onClose={onClose}
      title="What this line becomes"
      actions={<Button onClick={onClose}>Close</Button>}
    >
      {line.data ? (
        <LineView line={line.data} whole />
      ) : line.error ? (
        <TroubleHere error={line.error} />
      ) : (
        <Waiting what="the line" />
      )}
    </Sheet>
  );
}
