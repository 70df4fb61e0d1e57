import { ArrowLeftRight, X } from "lucide-react";
import { lazy, Suspense, useEffect, useState } from "react";
import { Button, IconButton } from "../../ui/Button";
import { addDays } from "../../ui/civil";
import { useCommands } from "../../ui/commands";
import { useSay } from "../../ui/toast";
import type { Almanac } from "../plan/almanac";
import { useTell } from "../logbook/useTell";
import type { Wish } from "../plan/reflow";
import type { Held } from "../moving/held";
import { movedWords, useMove, useSwap, type MovedPost } from "../moving/moves";

const ReflowSheet = lazy(() => import("../reflow/ReflowSheet").then((m) => ({ default: m.ReflowSheet })));

type Props = { site: string; plan: Almanac; posts: Held[]; onClear: () => void };

/** What can be done with the posts that were chosen on the plan. */
export function ChosenBar({ site, plan, posts, onClear }: Props) {
  const [placing, setPlacing] = useState<Wish>();
  const move = useMove(site);
  const swap = useSwap(site);
  const say = useSay();
  const tell = useTell(site);
  useEffect(() => {
    document.documentElement.dataset.choosing = "";
    return () => void delete document.documentElement.dataset.choosing;
  }, []);
  const timed = posts.filter((p) => !p.draft);
  const drafts = posts.filter((p) => p.draft);
  const done = (answer: Promise<{ moved: MovedPost[] }>) =>
    answer.then(({ moved }) => {
      tell(movedWords(moved));
      onClear();
    }, say.trouble);
  const first = timed[0];
  const byDays = (days: number) =>
    first?.date && done(move.mutateAsync({ posts: timed, date: addDays(first.date, days) }));
  const two = posts.length === 2 && timed.length > 0;
  useCommands([
    ...(two
      ? [
          {
            name: "Swap the two chosen",
            group: "Almanac",
            keys: "s",
            run: () => void done(swap.mutateAsync(posts)),
          },
        ]
      : []),
    ...(timed.length > 0
      ? [
          {
            name: "Move the selection a day earlier",
            group: "Almanac",
            keys: "-",
            run: () => void byDays(-1),
          },
          { name: "Move the selection a day later", group: "Almanac", keys: "+", run: () => void byDays(1) },
        ]
      : []),
  ]);
  return (
    <div
      role="toolbar"
      aria-label="Chosen posts"
      className="fixed bottom-4 left-1/2 z-30 flex -translate-x-1/2 items-center gap-1 rounded-md border border-strong bg-sheet py-1 pr-1 pl-4 text-sm shadow-lifted print:hidden"
    >
      <span className="mr-2 font-semibold">{posts.length} chosen</span>
      {timed.length > 0 && (
        <>
          <Button look="quiet" disabled={move.isPending} onClick={() => void byDays(-1)}>
            A day earlier
          </Button>
          <Button look="quiet" disabled={move.isPending} onClick={() => void byDays(1)}>
            A day later
          </Button>
          <Button
            look="quiet"
            disabled={move.isPending}
            onClick={() => void done(move.mutateAsync({ posts: timed }))}
          >
            Back to shelf
          </Button>
        </>
      )}
      {two && (
        <Button look="quiet" disabled={swap.isPending} onClick={() => void done(swap.mutateAsync(posts))}>
          <ArrowLeftRight size={14} aria-hidden /> Swap
        </Button>
      )}
      {drafts.length > 0 && (
        <Button look="quiet" onClick={() => setPlacing({ do: "place", posts: drafts.map((d) => d.id) })}>
          Place {drafts.length === 1 ? "1 draft" : `${drafts.length} drafts`}…
        </Button>
      )}
      <IconButton label="Clear selection" onClick={onClear}>
        <X size={14} />
      </IconButton>
      <Suspense fallback={null}>
        {placing && (
          <ReflowSheet
            site={site}
            start={placing}
            choices={[...plan.shelf, ...plan.drafts].map(({ id, title }) => ({ id, title }))}
            onClose={() => setPlacing(undefined)}
          />
        )}
      </Suspense>
    </div>
  );
}
