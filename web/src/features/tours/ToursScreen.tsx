import { Plus } from "lucide-react";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { Button } from "../../ui/Button";
import { shownPlace } from "../../ui/siteClock";
import { Trouble } from "../../ui/Trouble";
import { Waiting } from "../../ui/Waiting";
import { usePlanner } from "../session/session";
import { NewTourSheet } from "./NewTourSheet";
import { TourState } from "./TourState";
import { progress, useTours, type Summary } from "./tours";

/** All tours of a blog, the latest first. */
export default function ToursScreen() {
  const { site = "" } = useParams();
  const tours = useTours(site);
  const planner = usePlanner(site);
  const [making, setMaking] = useState(false);
  if (tours.isPending) return <Waiting what="the tours" />;
  if (tours.error) return <Trouble error={tours.error} retry={() => void tours.refetch()} />;
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
        <ul className="divide-y divide-line border-y border-line">
          {tours.data.map((t) => (
            <Row key={t.id} site={site} tour={t} />
          ))}
        </ul>
      )}
      {making && <NewTourSheet site={site} onClose={() => setMaking(false)} />}
    </main>
  );
}

function Row({ site, tour }: { site: string; tour: Summary }) {
  return (
    <li className="relative grid grid-cols-[8rem_minmax(0,1fr)_14rem_15rem] items-center gap-3 px-3 py-2 hover:bg-ground max-md:grid-cols-1 max-md:gap-1">
      <TourState state={tour.state} />
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
