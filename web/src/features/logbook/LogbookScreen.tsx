import { Undo2 } from "lucide-react";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { Button } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { clock } from "../../ui/civil";
import { TroubleHere } from "../../ui/Trouble";
import { Waiting } from "../../ui/Waiting";
import { useSteps } from "./steps";
import { deeds, useLogbook, type By, type Deed, type Line } from "./logbook";
import { shownDate } from "../../ui/siteClock";

const deedOptions = Object.entries(deeds).map(([value, name]) => ({ value: value as Deed, name }));
const byOptions: { value: By; name: string }[] = [
  { value: "", name: "By anyone" },
  { value: "engine", name: "By the engine" },
  { value: "me", name: "By me" },
];

/** What was done, when, why and by whom; most of it can be undone. */
export default function LogbookScreen() {
  const { site = "" } = useParams();
  const [deed, setDeed] = useState<Deed>("");
  const [by, setBy] = useState<By>("");
  const logbook = useLogbook(site, deed, by);
  const lines = logbook.data?.pages.flatMap((p) => p.lines) ?? [];
  return (
    <main className="mx-auto w-full max-w-5xl px-5 pt-4 pb-10">
      <div className="mb-4 flex flex-wrap items-center gap-3">
        <h1 className="font-title text-2xl">Logbook</h1>
        <div className="ml-auto w-52 max-md:ml-0 max-md:w-full">
          <Choice label="What" value={deed} options={deedOptions} onChange={setDeed} />
        </div>
        <div className="w-40 max-md:w-full">
          <Choice label="By whom" value={by} options={byOptions} onChange={setBy} />
        </div>
      </div>
      {logbook.isPending && <Waiting what="the logbook" />}
      {logbook.error && <TroubleHere error={logbook.error} retry={() => void logbook.refetch()} />}
      {logbook.data && lines.length === 0 && (
        <p className="rounded-md border border-dashed border-strong px-3 py-4 text-sm text-soft">
          {deed || by
            ? "Nothing of this kind yet."
            : "Nothing yet. What you and the engine do is recorded here."}
        </p>
      )}
      <Days site={site} lines={lines} />
      {logbook.hasNextPage && (
        <Button
          className="mt-3"
          disabled={logbook.isFetchingNextPage}
          onClick={() => void logbook.fetchNextPage()}
        >
          Earlier
        </Button>
      )}
    </main>
  );
}

function Days({ site, lines }: { site: string; lines: Line[] }) {
  const days = Map.groupBy(lines, (l) => l.date);
  return [...days].map(([date, ofDay]) => (
    <section key={date} className="mb-5">
      <h2 className="mb-1 text-sm font-semibold text-soft">{shownDate(date)}</h2>
      <ol className="divide-y divide-line rounded-md border border-line bg-sheet">
        {ofDay.map((l) => (
          <LineRow key={l.id} site={site} line={l} />
        ))}
      </ol>
    </section>
  ));
}

function LineRow({ site, line }: { site: string; line: Line }) {
  const { undo } = useSteps(site);
  return (
    <li
      className={`flex min-h-10 items-center gap-4 px-3 py-1.5 text-sm max-md:flex-wrap max-md:gap-x-3 max-md:gap-y-1 ${line.undone ? "text-faint line-through" : ""}`}
    >
      <span className="w-11 shrink-0 font-semibold">{clock(line.minute)}</span>
      <span className="w-40 shrink-0 text-soft max-md:w-auto">{deeds[line.deed as Deed] ?? line.deed}</span>
      <span className="min-w-0 flex-1 max-md:order-last max-md:basis-full">
        {line.title && line.postId && (
          <Link
            to={`/${site}?post=${line.postId}`}
            className="block min-h-6 truncate leading-6 font-medium hover:underline"
          >
            {line.title}
          </Link>
        )}
        <span className="block text-xs text-soft">{line.reason}</span>
      </span>
      <span className="w-36 shrink-0 truncate text-right text-xs text-soft max-md:ml-auto max-md:w-auto">
        {line.who}
      </span>
      <span className="w-28 shrink-0 text-right max-md:w-auto empty:hidden md:empty:block">
        {line.undoable && (
          <Button
            look="quiet"
            icon={<Undo2 size={14} />}
            aria-label={`Undo: ${line.title ? `${line.title}, ` : ""}${line.reason}`}
            onClick={() => undo([line.id])}
          >
            {line.together > 1 ? `Undo all ${line.together}` : "Undo"}
          </Button>
        )}
      </span>
    </li>
  );
}
