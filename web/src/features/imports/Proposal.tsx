import { Download } from "lucide-react";
import { Button } from "../../ui/Button";
import { shownPlace } from "../../ui/siteClock";
import { useSay } from "../../ui/toast";
import { Warning } from "../../ui/Trouble";
import { Refusal } from "../../api/client";
import { linesTable, useImportDeeds, type WholeImport } from "./imports";

/** What the import comes to, before anything is done, and the doing. */
export function Proposal({ site, of: i, onChange }: { site: string; of: WholeImport; onChange: () => void }) {
  const say = useSay();
  const { commit } = useImportDeeds(site);
  const c = i.counts;
  const coming = c.ready + c.update;
  const stale = commit.error instanceof Refusal && commit.error.status === 409;
  const facts = [
    { n: c.ready, text: c.ready === 1 ? "line becomes a post" : "lines become posts" },
    { n: c.update, text: c.update === 1 ? "post is changed" : "posts are changed" },
    { n: c.same, text: "unchanged since last time" },
    { n: c.clash, text: "changed on both sides; these posts stay as they are" },
    { n: c.left, text: "left out" },
  ].filter((f) => f.n > 0 || f.text.startsWith("line"));
  return (
    <section aria-label="What this comes to" className="mb-4 border-y border-dashed border-strong py-3">
      <ul className="mb-2 flex flex-wrap gap-x-8 gap-y-1">
        {facts.map((f) => (
          <li key={f.text} className="text-sm">
            <span className="mr-1.5 font-title text-2xl tabular-nums">{f.n}</span>
            {f.text}
          </li>
        ))}
      </ul>
      <Where of={i} />
      {stale && (
        <div className="mb-2">
          <Warning>
            The plan has changed since this was shown. Nothing was done; look at it as it is now.
          </Warning>
        </div>
      )}
      {i.cannot && (
        <div className="mb-2">
          <Warning>{i.cannot}</Warning>
        </div>
      )}
      <div className="flex flex-wrap items-center gap-2">
        <Button
          look="main"
          disabled={coming === 0 || Boolean(i.cannot) || commit.isPending}
          onClick={() =>
            commit.mutate(
              { id: i.id, token: i.token ?? "" },
              { onError: (e) => (e instanceof Refusal && e.status === 409 ? undefined : say.trouble(e)) },
            )
          }
        >
          {buttonText(c.ready, c.update)}
        </Button>
        <Button onClick={onChange}>Change the setup</Button>
        {c.left > 0 && (
          <a
            href={linesTable(site, i.id, "left")}
            download
            className="inline-flex h-8 items-center gap-1.5 px-2 text-sm text-soft hover:text-ink"
          >
            <Download size={14} aria-hidden /> What is left out, as .csv
          </a>
        )}
      </div>
    </section>
  );
}

function buttonText(ready: number, update: number): string {
  const posts = (n: number) => (n === 1 ? "1 post" : `${n} posts`);
  if (update === 0) return `Bring in ${posts(ready)}`;
  if (ready === 0) return `Change ${posts(update)}`;
  return `Bring in ${posts(ready)}, change ${update}`;
}

/** Where the posts go. */
function Where({ of: i }: { of: WholeImport }) {
  const { portion } = i.setup.landing ?? {};
  if (portion) {
    return (
      <p className="mb-3 text-sm text-soft">
        {portion} come in at once, then {portion} at a time until all are in.
        {i.setup.landing?.as === "placed" && " Each portion gets the next free times when it comes."}
      </p>
    );
  }
  return <WhereAtOnce of={i} />;
}

/** Where the posts go that come all at once. */
function WhereAtOnce({ of: i }: { of: WholeImport }) {
  const as = i.setup.landing?.as ?? "drafts";
  if (as === "drafts") return <p className="mb-3 text-sm text-soft">They become drafts.</p>;
  if (as === "shelf")
    return <p className="mb-3 text-sm text-soft">They go on the shelf, after what is there.</p>;
  if (as === "links") {
    return (
      <p className="mb-3 text-sm text-soft">
        They become link items: rules share their titles and links. They have no page on the blog.
      </p>
    );
  }
  if (as === "dated") {
    return (
      <p className="mb-3 text-sm text-soft">
        They keep the dates of their source: past ones are out at once with those dates, later ones are
        scheduled, those without a date become drafts.
      </p>
    );
  }
  const first = i.times?.[0];
  const past = i.times?.filter((t) => t.past).length ?? 0;
  return (
    <div className="mb-3 text-sm text-soft">
      {first && i.last ? (
        <p>
          {i.timed === 1 ? "1 post gets a time" : `${i.timed} posts get times`}, the first on{" "}
          <b className="font-semibold text-ink tabular-nums">{shownPlace(first.at)}</b>, the last on{" "}
          <b className="font-semibold text-ink tabular-nums">{shownPlace(i.last.at)}</b>.
          {past > 0 && " Those whose times are past are published at once, backdated."}
        </p>
      ) : (
        <p>No post gets a time.</p>
      )}
      {(i.untimed ?? 0) > 0 && <p>{i.untimed} find no time and go on the shelf.</p>}
    </div>
  );
}
