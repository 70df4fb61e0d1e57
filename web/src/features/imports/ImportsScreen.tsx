import { useState } from "react";
import { Link, useParams } from "react-router";
import { Button } from "../../ui/Button";
import { NumberField } from "../../ui/NumberField";
import { useSay } from "../../ui/toast";
import { Trouble } from "../../ui/Trouble";
import { Waiting } from "../../ui/Waiting";
import { usePlanner } from "../session/session";
import { shownMoment } from "../../ui/siteClock";
import { DropZone } from "./DropZone";
import { Feeds } from "./Feeds";
import { said, useImportDeeds, useImports, type Import } from "./imports";

/** Brings writing in: where files are dropped, and what was brought in before. */
export default function ImportsScreen() {
  const { site = "" } = useParams();
  const editor = usePlanner(site);
  const all = useImports(site);
  if (all.isPending) return <Waiting what="the imports" />;
  if (all.error) return <Trouble error={all.error} retry={() => void all.refetch()} />;
  const { imports } = all.data;
  return (
    <main className="mx-auto w-full max-w-5xl px-5 pt-4 pb-12">
      <p className="text-sm">
        <Link to={`/${site}/posts`} className="text-soft underline-offset-2 hover:underline">
          Posts
        </Link>
      </p>
      <h1 className="mb-1 font-title text-2xl">Import</h1>
      <p className="mb-3 text-sm text-soft">
        Articles from files, sheets and feeds become posts. You see what each becomes before anything is
        brought in, and can undo all of it afterwards.
      </p>
      {editor && <DropZone site={site} />}
      <h2 className="mt-6 mb-1 text-base font-semibold">Imports so far</h2>
      {imports.length === 0 ? (
        <p className="text-sm text-soft">Nothing has been brought in yet.</p>
      ) : (
        <ul aria-label="Imports so far" className="divide-y divide-line border-y border-line">
          {imports.map((i) => (
            <Row key={i.id} site={site} of={i} />
          ))}
        </ul>
      )}
      {editor && <Feeds site={site} />}
      {editor && <Kept site={site} days={all.data.days} />}
    </main>
  );
}

/** For how long logs are kept. */
function Kept({ site, days }: { site: string; days: number }) {
  const say = useSay();
  const { keep } = useImportDeeds(site);
  const [wish, setWish] = useState(days);
  return (
    <form
      className="mt-4 flex items-end gap-2"
      onSubmit={(e) => {
        e.preventDefault();
        keep.mutate(wish, { onSuccess: () => say.done("Saved."), onError: say.trouble });
      }}
    >
      <div className="w-56">
        <NumberField label="Keep logs of imports, in days" value={wish} onChange={setWish} />
      </div>
      {wish !== days && (
        <Button type="submit" disabled={keep.isPending || Number.isNaN(wish)}>
          Save
        </Button>
      )}
      <p className="pb-1.5 text-xs text-soft">After that an import can no longer be undone as a whole.</p>
    </form>
  );
}

function Row({ site, of: i }: { site: string; of: Import }) {
  const { mark, name } = said[i.state];
  return (
    <li className="flex flex-wrap items-center gap-x-4 gap-y-0.5 py-2">
      <Link
        to={`/${site}/import/${i.id}`}
        className="min-w-56 flex-1 text-base font-semibold wrap-anywhere underline-offset-2 hover:underline"
      >
        {i.source}
      </Link>
      <span className={`w-40 text-sm ${i.state === "failed" ? "font-semibold text-madder" : ""}`}>
        <span aria-hidden>{mark}</span> {name}
      </span>
      <span className="w-56 text-sm text-soft tabular-nums">{result(i)}</span>
      <span className="text-sm text-soft tabular-nums">
        {shownMoment(i.begun ?? i.made)} · {i.by}
      </span>
    </li>
  );
}

/** What an import has come to so far. */
function result({ counts: c, read }: Import): string {
  if (c.landed + c.updated > 0) {
    return `${c.landed} brought in${c.updated ? `, ${c.updated} changed` : ""}${c.left ? `, ${c.left} left out` : ""}`;
  }
  if (c.undone > 0) return `${c.undone} undone${c.kept ? `, ${c.kept} kept` : ""}`;
  if (c.ready + c.update > 0) return `${c.ready + c.update} ready${c.left ? `, ${c.left} left out` : ""}`;
  return read ? `${read} read` : "";
}
