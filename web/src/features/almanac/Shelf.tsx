import { ArrowDown, ArrowUp } from "lucide-react";
import { Suspense, lazy, useState } from "react";
import { Link } from "react-router";
import { Button, IconButton } from "../../ui/Button";
import { useCommands } from "../../ui/commands";
import { clock } from "../../ui/civil";
import { shownDate, shownPlace } from "../../ui/siteClock";
import { useSay } from "../../ui/toast";
import { usePlanner } from "../session/session";
import { useOrderShelf, type Almanac, type DraftItem, type ShelfItem } from "../plan/almanac";
import { FirstSteps } from "./FirstSteps";
import { Unready } from "./Unready";

const CommitSheet = lazy(() => import("./CommitSheet").then((m) => ({ default: m.CommitSheet })));

type Props = { site: string; plan: Almanac; picked: ReadonlySet<number>; onPost: (id: number) => void };

/** The cleared drafts in queue order, each with the slot proposed for it; below them those still being written. */
export function Shelf({ site, plan, picked, onPost }: Props) {
  const [committing, setCommitting] = useState(false);
  const say = useSay();
  const order = useOrderShelf(site);
  const planner = usePlanner(site);
  const placed = plan.shelf.filter((s) => s.proposed);

  useCommands(
    planner && placed.length > 0
      ? [{ name: "Schedule the shelf…", group: "Almanac", keys: "c", run: () => setCommitting(true) }]
      : [],
  );

  function move(from: number, to: number) {
    const ids = plan.shelf.map((s) => s.id);
    ids.splice(to, 0, ...ids.splice(from, 1));
    order.mutate(ids, { onError: say.trouble });
  }

  return (
    <div className="space-y-5">
      {plan.new && planner && <FirstSteps site={site} plan={plan} />}
      <HeldPosts site={site} plan={plan} onPost={onPost} />
      <Unready site={site} onPost={onPost} />
      <section aria-labelledby="shelf" data-shelf>
        <div className="mb-2 flex h-8 items-center justify-between">
          <h2 id="shelf" className="font-title text-xl">
            Shelf
          </h2>
          {planner && placed.length > 0 && (
            <Button look="main" onClick={() => setCommitting(true)}>
              Schedule {placed.length === 1 ? "1 draft" : `${placed.length} drafts`}…
            </Button>
          )}
        </div>
        {plan.order !== "hand" && (
          <p className="mb-1 text-xs text-soft">
            {orderWords[plan.order]}{" "}
            <Link to={`/${site}/settings`} className="underline underline-offset-2">
              Change
            </Link>
          </p>
        )}
        {!plan.new && plan.days.every((d) => d.openings.length === 0) && (
          <p className="mb-2 rounded-md border border-strong bg-sheet px-3 py-2 text-sm">
            The rhythm has no opening in these days, so no slot can be proposed in them.{" "}
            <Link to={`/${site}/rhythm`} className="underline underline-offset-2">
              Set when posts come out
            </Link>
          </p>
        )}
        {plan.shelf.length === 0 ? (
          <p className="rounded-md border border-dashed border-strong px-3 py-4 text-sm text-soft">
            The shelf is empty. Put a finished draft on it, and you see here and on the tape which slot it
            would get.
          </p>
        ) : (
          <ol className="divide-y divide-line rounded-md border border-line bg-sheet">
            {plan.shelf.map((item, i) => (
              <ShelfRow
                key={item.id}
                item={item}
                place={i}
                picked={picked.has(item.id)}
                onOpen={() => onPost(item.id)}
                onUp={planner && plan.order === "hand" && i > 0 ? () => move(i, i - 1) : undefined}
                onDown={
                  planner && plan.order === "hand" && i < plan.shelf.length - 1
                    ? () => move(i, i + 1)
                    : undefined
                }
                busy={order.isPending}
              />
            ))}
          </ol>
        )}
      </section>
      <Writing site={site} drafts={plan.drafts} />
      <Suspense fallback={null}>
        {committing && (
          <CommitSheet
            site={site}
            today={plan.now.date}
            shelf={plan.shelf}
            token={plan.token}
            unproven={plan.unproven ?? false}
            open
            onClose={() => setCommitting(false)}
          />
        )}
      </Suspense>
    </div>
  );
}

const orderWords: Record<Almanac["order"], string> = {
  hand: "By hand.",
  oldest: "Oldest first.",
  newest: "Newest first.",
  shuffled: "Shuffled.",
  categories: "One of each category in turn.",
};

type RowProps = {
  item: ShelfItem;
  place: number;
  picked: boolean;
  onOpen: () => void;
  onUp: (() => void) | undefined;
  onDown: (() => void) | undefined;
  busy: boolean;
};

function ShelfRow({ item, place, picked, onOpen, onUp, onDown, busy }: RowProps) {
  return (
    <li data-shelf-row={place} className="group relative">
      <button
        type="button"
        data-post={item.id}
        onClick={onOpen}
        title={item.reason}
        className={`w-full px-3 py-1.5 text-left hover:bg-sunk ${picked ? "picked" : ""}`}
      >
        <span className="block truncate text-sm font-medium">
          {item.title}
          {picked && <span className="sr-only">, chosen</span>}
        </span>
        {item.proposed ? (
          <span className="block truncate text-xs text-chalk">
            {shownDate(item.proposed.date)},{" "}
            <span className="font-semibold">{clock(item.proposed.minute)}</span>
            <span className="text-soft"> {item.reason}</span>
          </span>
        ) : (
          <span className="block text-xs text-madder">{item.reason}</span>
        )}
      </button>
      <span className="absolute right-1 bottom-0.5 flex opacity-0 group-focus-within:opacity-100 group-hover:opacity-100">
        <IconButton label={`Move “${item.title}” up`} disabled={!onUp || busy} onClick={onUp}>
          <ArrowUp size={14} />
        </IconButton>
        <IconButton label={`Move “${item.title}” down`} disabled={!onDown || busy} onClick={onDown}>
          <ArrowDown size={14} />
        </IconButton>
      </span>
    </li>
  );
}

function Writing({ site, drafts }: { site: string; drafts: DraftItem[] }) {
  return (
    <section aria-labelledby="writing">
      <h2 id="writing" className="mb-1 text-sm font-semibold text-soft">
        Drafts
      </h2>
      {drafts.length === 0 ? (
        <p className="text-sm text-faint">No drafts. Begin one with “New draft”.</p>
      ) : (
        <ul className="space-y-px">
          {drafts.map((d) => (
            <li key={d.id}>
              <Link
                data-post={d.id}
                to={`/${site}/write/${d.id}`}
                className="flex items-baseline justify-between gap-3 rounded-md px-3 py-1 text-sm hover:bg-sunk"
              >
                <span className="truncate">{d.title || "Untitled"}</span>
                <span className="shrink-0 text-xs text-faint">{d.author.split(" ")[0]}</span>
              </Link>
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}

/** What catch-up held back: it is trouble, so it comes first. */
function HeldPosts({ site, plan, onPost }: { site: string; plan: Almanac; onPost: (id: number) => void }) {
  if (plan.held.length === 0) return null;
  return (
    <section aria-labelledby="held">
      <h2 id="held" className="mb-1 text-sm font-semibold text-madder">
        Overdue, and held for you{" "}
        <Link to={`/${site}/overdue`} className="font-normal underline underline-offset-2">
          all of it
        </Link>
      </h2>
      <ul className="divide-y divide-line rounded-md border border-madder bg-sheet">
        {plan.held.map((p) => (
          <li key={p.id}>
            <button
              type="button"
              onClick={() => onPost(p.id)}
              className="w-full px-3 py-1.5 text-left hover:bg-sunk"
            >
              <span className="block truncate text-sm font-medium">{p.title}</span>
              <span className="block text-xs text-madder">was due on {shownPlace(p)}</span>
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}
