import { useQueryClient } from "@tanstack/react-query";
import { Link } from "react-router";
import { Button } from "../../ui/Button";
import { shownMoment } from "../../ui/siteClock";
import { useSay } from "../../ui/toast";
import { useUndo } from "../logbook/logbook";
import { type WholeImport } from "./imports";

/** What an import has come to, and how it is undone. */
export function Result({ site, of: i }: { site: string; of: WholeImport }) {
  const say = useSay();
  const undo = useUndo(site);
  const queries = useQueryClient();
  const c = i.counts;
  const facts = [
    { n: c.landed, text: c.landed === 1 ? "post brought in" : "posts brought in" },
    { n: c.updated, text: "changed" },
    { n: c.undone, text: "back in the bin" },
    { n: c.kept, text: "kept, since they were changed since" },
    { n: c.same, text: "unchanged" },
    { n: c.clash, text: "changed on both sides, left as they are" },
    { n: c.left, text: "left out" },
  ].filter((f) => f.n > 0);
  return (
    <section aria-label="What came of it" className="mb-4 border-y border-line py-3">
      <ul className="mb-2 flex flex-wrap gap-x-8 gap-y-1">
        {facts.map((f) => (
          <li key={f.text} className="text-sm">
            <span className="mr-1.5 font-title text-2xl tabular-nums">{f.n}</span>
            {f.text}
          </li>
        ))}
      </ul>
      <p className="mb-3 text-sm text-soft tabular-nums">
        {i.by}, {shownMoment(i.begun ?? i.made)}
        {i.ended && ` – ${shownMoment(i.ended)}`}
      </p>
      <div className="flex gap-2">
        {i.line !== undefined && (
          <Button
            disabled={undo.isPending}
            onClick={() =>
              undo.mutate(i.line!, {
                onError: say.trouble,
                onSettled: () => void queries.invalidateQueries({ queryKey: ["plan", site, "import", i.id] }),
              })
            }
          >
            Undo: {c.landed + c.updated === 1 ? "the post goes" : "posts go"} to the bin
          </Button>
        )}
        <Link
          to={`/${site}/import`}
          className="inline-flex h-8 items-center px-2 text-sm text-soft hover:text-ink"
        >
          Import more
        </Link>
      </div>
    </section>
  );
}
