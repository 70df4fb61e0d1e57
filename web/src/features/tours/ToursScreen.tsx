import { Plus } from "lucide-react";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { Button } from "../../ui/Button";
import { shownPlace } from "../../ui/siteClock";
import { Tick } from "../../ui/Tick";
import { Trouble, Warning } from "../../ui/Trouble";
import { Waiting } from "../../ui/Waiting";
import { useTell } from "../logbook/useTell";
import { usePlanner } from "../session/session";
import { NewTourSheet } from "./NewTourSheet";
import { TourState } from "./TourState";
import { counted, progress, useTourDeeds, useTours, type Summary } from "./tours";

/** All tours of a blog, the latest first. */
export default function ToursScreen() {
  const { site = "" } = useParams();
  const tours = useTours(site);
  const planner = usePlanner(site);
  const [making, setMaking] = useState(false);
  const [chosen, setChosen] = useState<ReadonlySet<number>>(new Set());
  if (tours.isPending) return <Waiting what="the tours" />;
  if (tours.error) return <Trouble error={tours.error} retry={() => void tours.refetch()} />;
  const drafts = tours.data.filter((t) => t.state === "draft");
  const ready = drafts.filter((t) => chosen.has(t.id));
  return (
    <main className="mx-auto w-full max-w-6xl px-5 pt-4 pb-10">
      <div className="mb-4 flex flex-wrap items-center gap-x-3 gap-y-1">
        <h1 className="font-title text-2xl">Tours</h1>
        <p className="text-sm text-soft">
          One good post, shared again over weeks or months, each time with another line of it.
        </p>
        <Link to={`/${site}/results`} className="ml-auto text-sm underline underline-offset-2">
          Results
        </Link>
        {planner && (
          <Button icon={<Plus size={14} />} onClick={() => setMaking(true)}>
            New tour
          </Button>
        )}
      </div>
      {tours.data.length === 0 ? (
        <p className="rounded-md border border-dashed border-strong px-3 py-4 text-sm text-soft">
          No tour yet. Choose a post that deserves more readers, and let its best sentences carry it through
          the year.
        </p>
      ) : (
        <ul className="@container divide-y divide-line border-y border-line">
          {tours.data.map((t) => (
            <Row
              key={t.id}
              site={site}
              tour={t}
              chosen={chosen.has(t.id)}
              onChoose={
                planner && t.state === "draft" && drafts.length > 1
                  ? (on) =>
                      setChosen((all) => {
                        const next = new Set(all);
                        if (on) next.add(t.id);
                        else next.delete(t.id);
                        return next;
                      })
                  : undefined
              }
            />
          ))}
        </ul>
      )}
      {ready.length > 0 && <LaunchBar site={site} tours={ready} onNone={() => setChosen(new Set())} />}
      {making && <NewTourSheet site={site} onClose={() => setMaking(false)} />}
    </main>
  );
}

/** Launches the chosen tours, all or none. */
function LaunchBar({ site, tours, onNone }: { site: string; tours: Summary[]; onNone: () => void }) {
  const { launchSeveral: launch } = useTourDeeds(site);
  const tell = useTell(site);
  const go = () =>
    launch.mutateAsync(tours.map(({ id, version }) => ({ id, version }))).then(
      ({ messages }) => {
        tell(`${counted(tours.length, "tour")} launched: ${counted(messages, "message")} planned.`);
        onNone();
      },
      () => undefined,
    );
  return (
    <div
      role="region"
      aria-label="Chosen tours"
      className="sticky bottom-3 z-20 mt-3 rounded-md border border-strong bg-sheet px-3 py-2 text-sm shadow-lifted"
    >
      {launch.error && <Warning>{launch.error.message}</Warning>}
      <div className="flex min-h-8 flex-wrap items-center gap-2">
        <span role="status">{tours.length} chosen</span>
        <Button look="main" disabled={launch.isPending} onClick={() => void go()}>
          {`Launch ${counted(tours.length, "tour")}`}
        </Button>
        <Button look="quiet" onClick={onNone}>
          Clear selection
        </Button>
      </div>
    </div>
  );
}

type RowProps = {
  site: string;
  tour: Summary;
  chosen: boolean;
  onChoose?: ((on: boolean) => void) | undefined;
};

function Row({ site, tour, chosen, onChoose }: RowProps) {
  return (
    <li className="relative grid grid-cols-[8rem_minmax(0,1fr)_14rem_15rem] items-center gap-3 px-3 py-2 hover:bg-ground @max-3xl:grid-cols-1 @max-3xl:gap-1">
      <span className="flex items-center gap-2">
        {onChoose && (
          <span className="relative z-10">
            <Tick label={`Choose ${tour.name}`} hideLabel on={chosen} onChange={onChoose} />
          </span>
        )}
        <TourState state={tour.state} />
      </span>
      <div className="min-w-0">
        <Link
          to={`/${site}/tours/${tour.id}`}
          className="font-medium after:absolute after:inset-0 after:content-['']"
        >
          {tour.name}
        </Link>
        {tour.title !== tour.name && <p className="truncate text-sm text-soft">{tour.title}</p>}
      </div>
      <p className={`text-sm ${tour.failed > 0 ? "text-madder" : "text-soft"}`}>{progress(tour)}</p>
      <p className="text-sm">
        {tour.next && (
          <>
            Next <span className="font-semibold">{shownPlace(tour.next)}</span>
          </>
        )}
      </p>
    </li>
  );
}
