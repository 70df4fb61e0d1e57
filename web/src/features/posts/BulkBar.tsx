import { lazy, Suspense, useState } from "react";
import { Button } from "../../ui/Button";
import { Sheet } from "../../ui/Sheet";
import { useSay } from "../../ui/toast";
import type { Schemas } from "../../api/client";
import { useTell } from "../logbook/useTell";
import type { Wish } from "../plan/reflow";
import { usePlanner } from "../session/session";
import { BulkEdit } from "./BulkEdit";
import { useBulk, type BulkDeed, type Filter, type Listed } from "./posts";

const OutingSheet = lazy(() => import("../channels/OutingSheet").then((m) => ({ default: m.OutingSheet })));
const ReflowSheet = lazy(() => import("../reflow/ReflowSheet").then((m) => ({ default: m.ReflowSheet })));

const deeds: { deed: BulkDeed; name: string; done: string }[] = [
  { deed: "clear", name: "Put on the shelf", done: "on the shelf" },
  { deed: "unclear", name: "Take off the shelf", done: "off the shelf" },
  { deed: "give back", name: "Send back", done: "sent back" },
  { deed: "bin", name: "Move to the bin", done: "in the bin" },
  { deed: "restore", name: "Restore", done: "out of the bin" },
];

const NewTourSheet = lazy(() => import("../tours/NewTourSheet").then((m) => ({ default: m.NewTourSheet })));
const OnceSheet = lazy(() => import("../upkeep/OnceSheet").then((m) => ({ default: m.OnceSheet })));

/** How many posts are shared in one go at most. */
const mostShared = 200;

/** Of how many posts tours are begun in one go at most. */
const mostToured = 100;

type Props = {
  site: string;
  chosen: Listed[];
  filter: Filter;
  total: number;
  onAll: () => void;
  all: boolean;
  onNone: () => void;
};

/** What can be done to the chosen posts, all at once. */
export function BulkBar({ site, chosen, filter, total, all, onAll, onNone }: Props) {
  const bulk = useBulk(site);
  const planner = usePlanner(site);
  const tell = useTell(site);
  const say = useSay();
  const [skipped, setSkipped] = useState<Schemas["SkippedPost"][]>([]);
  const [changing, setChanging] = useState(false);
  const [sharing, setSharing] = useState(false);
  const [touring, setTouring] = useState(false);
  const [upkeeping, setUpkeeping] = useState(false);
  const out = chosen.filter((p) => p.stage === "published");
  const [placing, setPlacing] = useState<Wish>();
  const placeable = chosen.filter((p) => p.can.includes("place"));
  const n = all ? total : chosen.length;

  function go(deed: BulkDeed, done: string) {
    bulk.mutate(
      { deed, ids: chosen.map((p) => p.id), ...(all ? { all: { filter, count: total } } : {}) },
      {
        onSuccess: (outcome) => {
          onNone();
          setSkipped(outcome.skipped);
          if (outcome.done > 0)
            tell(`${outcome.done === 1 ? "1 post is" : `${outcome.done} posts are`} ${done}.`);
        },
        onError: say.trouble,
      },
    );
  }

  return (
    <>
      <div
        role="region"
        aria-label="Chosen posts"
        className="sticky bottom-3 z-20 mt-3 flex min-h-12 flex-wrap items-center gap-2 rounded-md border border-strong bg-sheet px-3 py-2 text-sm shadow-lifted"
      >
        <span role="status">{n === 1 ? "1 chosen" : `${n.toLocaleString("en-GB")} chosen`}</span>
        {deeds
          .filter((d) => all || chosen.some((p) => p.can.includes(d.deed)))
          .map((d) => (
            <Button key={d.deed} disabled={bulk.isPending} onClick={() => go(d.deed, d.done)}>
              {d.name}
            </Button>
          ))}
        {!all && placeable.length > 0 && (
          <Button onClick={() => setPlacing({ do: "place", posts: placeable.map((p) => p.id) })}>
            Place…
          </Button>
        )}
        {!all && out.length > 0 && out.length <= mostShared && planner && (
          <Button onClick={() => setSharing(true)}>Share…</Button>
        )}
        {!all && out.length > 0 && out.length <= mostToured && planner && (
          <Button onClick={() => setTouring(true)}>{out.length === 1 ? "Tour…" : "Tours…"}</Button>
        )}
        {!all && planner && <Button onClick={() => setUpkeeping(true)}>Upkeep…</Button>}
        <Button onClick={() => setChanging(true)}>Edit selected…</Button>
        {!all && total > chosen.length && (
          <Button look="quiet" onClick={onAll}>
            Choose all {total.toLocaleString("en-GB")} of this list
          </Button>
        )}
        <Button look="quiet" onClick={onNone}>
          Clear selection
        </Button>
        {bulk.isPending && <span className="text-soft">Saving…</span>}
      </div>
      {changing && (
        <BulkEdit
          site={site}
          chosen={{ ids: chosen.map((p) => p.id), ...(all ? { all: { filter, count: total } } : {}) }}
          count={n}
          onClose={() => setChanging(false)}
          onDone={(outcome) => {
            setChanging(false);
            setSkipped(outcome.skipped);
            if (outcome.done > 0)
              tell(outcome.done === 1 ? "1 post changed." : `${outcome.done} posts changed.`);
            else if (outcome.skipped.length === 0) say.done("There was nothing to change.");
          }}
        />
      )}
      <Suspense fallback={null}>
        {touring && (
          <NewTourSheet
            site={site}
            posts={out.map(({ id, title }) => ({ id, title }))}
            onClose={() => setTouring(false)}
          />
        )}
        {sharing && (
          <OutingSheet
            site={site}
            posts={out.map(({ id, title }) => ({ id, title }))}
            onClose={() => {
              setSharing(false);
              onNone();
            }}
          />
        )}
        {upkeeping && (
          <OnceSheet
            site={site}
            ids={chosen.map((p) => p.id)}
            begin={chosen.every((p) => p.stage === "binned") ? "delete" : "archive"}
            onClose={() => setUpkeeping(false)}
            onDone={onNone}
          />
        )}
        {placing && (
          <ReflowSheet
            site={site}
            start={placing}
            choices={placeable.map(({ id, title }) => ({ id, title }))}
            onClose={() => {
              setPlacing(undefined);
              onNone();
            }}
          />
        )}
      </Suspense>
      <Sheet
        open={skipped.length > 0}
        onClose={() => setSkipped([])}
        title={skipped.length === 1 ? "1 post was not changed" : `${skipped.length} posts were not changed`}
        actions={<Button onClick={() => setSkipped([])}>Close</Button>}
      >
        <ul className="divide-y divide-line text-sm">
          {skipped.map((s) => (
            <li key={s.id} className="py-1.5">
              <span className="font-semibold">{s.title || "Untitled"}</span>: {s.why}
            </li>
          ))}
        </ul>
      </Sheet>
    </>
  );
}
