import { useState } from "react";
import { Link, useParams } from "react-router";
import { Button } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { clock, dateParts, longDate } from "../../ui/civil";
import { Trouble, Warning } from "../../ui/Trouble";
import { Waiting } from "../../ui/Waiting";
import { useForecast, type Forecast, type ForecastEvent } from "./forecast";
import { kindWords, type DeedKind } from "./kinds";
import { shownDate } from "../../ui/siteClock";

const spans = [
  { value: 30, name: "30 days" },
  { value: 90, name: "90 days" },
  { value: 365, name: "A year" },
  { value: 730, name: "Two years" },
];

/** How many days are shown before one asks for more. */
const aPage = 60;

/** What will happen by itself, day by day, if nobody changes anything. */
export default function ForecastScreen() {
  const { site = "" } = useParams();
  const [days, setDays] = useState(90);
  const [hidden, setHidden] = useState<DeedKind[]>([]);
  const forecast = useForecast(site, days);
  if (forecast.isPending) return <Waiting what="the forecast" />;
  if (forecast.error && !forecast.data)
    return <Trouble error={forecast.error} retry={() => void forecast.refetch()} />;
  const told = forecast.data;
  return (
    <main className="mx-auto w-full max-w-6xl px-5 pt-4 pb-10">
      <div className="mb-3 flex flex-wrap items-center gap-x-3 gap-y-1">
        <h1 className="font-title text-2xl">Forecast</h1>
        <p className="text-sm text-soft">
          What will happen if nobody changes anything. The engine decides the same way.
        </p>
        <div className="ml-auto w-36">
          <Choice label="Span" value={days} options={spans} onChange={setDays} />
        </div>
      </div>
      {forecast.isPlaceholderData && (
        <p role="status" className="mb-2 flex items-center gap-3 text-sm text-soft">
          Foretelling {spans.find((s) => s.value === days)?.name.toLowerCase()}…
          <progress max={1} value={forecast.share} aria-label="How far the forecast has got" />
          <Button look="quiet" onClick={() => setDays(90)}>
            Cancel
          </Button>
        </p>
      )}
      <Warnings forecast={told} />
      <Kinds
        forecast={told}
        hidden={hidden}
        onToggle={(k) => setHidden(hidden.includes(k) ? hidden.filter((h) => h !== k) : [...hidden, k])}
      />
      <Days key={days} site={site} events={told.events.filter((e) => !hidden.includes(e.kind))} />
      {told.cut && (
        <p className="mt-3 text-sm text-soft">
          Only the first {told.events.length} are listed. Choose a shorter span to see all of it.
        </p>
      )}
    </main>
  );
}

function Warnings({ forecast }: { forecast: Forecast }) {
  if (forecast.warnings.length === 0)
    return (
      <p className="mb-3 text-sm text-soft">Nothing to worry about up to {shownDate(forecast.to.date)}.</p>
    );
  return (
    <section aria-label="Warnings" className="mb-4 space-y-1.5">
      {forecast.warnings.map((w) => (
        <Warning key={w.text}>{w.text}</Warning>
      ))}
    </section>
  );
}

/** How many of each kind; each can be left out. */
function Kinds({
  forecast,
  hidden,
  onToggle,
}: {
  forecast: Forecast;
  hidden: DeedKind[];
  onToggle: (kind: DeedKind) => void;
}) {
  const there = (Object.keys(kindWords) as DeedKind[]).filter((k) => forecast.counts[k]);
  return (
    <div role="group" aria-label="Kinds" className="mb-3 flex flex-wrap gap-2">
      {there.map((k) => {
        const on = !hidden.includes(k);
        return (
          <button
            key={k}
            type="button"
            aria-pressed={on}
            onClick={() => onToggle(k)}
            className={`inline-flex h-8 items-center gap-1.5 rounded-md border px-2.5 text-sm ${on ? "border-strong bg-sheet" : "border-line text-faint line-through"}`}
          >
            <span aria-hidden className={on ? kindWords[k].color : ""}>
              {kindWords[k].mark}
            </span>
            <span className="font-semibold">{forecast.counts[k]}</span>{" "}
            {forecast.counts[k] === 1 ? kindWords[k].one : kindWords[k].plural}
          </button>
        );
      })}
    </div>
  );
}

function Days({ site, events }: { site: string; events: ForecastEvent[] }) {
  const [shown, setShown] = useState(aPage);
  const days = Map.groupBy(events, (e) => e.date);
  if (events.length === 0)
    return (
      <p className="rounded-md border border-dashed border-strong px-3 py-4 text-sm text-soft">
        Nothing happens by itself in this span. Schedule drafts in the Almanac, or{" "}
        <Link to={`/${site}/rules`} className="underline underline-offset-2">
          turn on a rule
        </Link>
        .
      </p>
    );
  return (
    <>
      <ol className="divide-y divide-line rounded-md border border-line bg-sheet">
        {[...days].slice(0, shown).map(([date, these]) => (
          <li key={date} className="grid grid-cols-[7.5rem_1fr] max-md:grid-cols-1">
            <Day date={date} />
            <ul className="min-w-0 py-1">
              {these.map((e, i) => (
                <Happening key={i} site={site} event={e} />
              ))}
            </ul>
          </li>
        ))}
      </ol>
      {days.size > shown && (
        <Button className="mt-3" onClick={() => setShown(shown + aPage)}>
          Further on ({days.size - shown} more days)
        </Button>
      )}
    </>
  );
}

function Day({ date }: { date: string }) {
  const d = dateParts(date);
  return (
    <h2 className="flex items-baseline gap-1.5 border-line px-3 py-1.5 md:border-r" title={longDate(date)}>
      <span className="w-8 text-xs text-soft">{d.weekday}</span>
      <span className="font-title text-lg">{d.day}</span>
      <span className="text-xs text-soft">{d.month}</span>
    </h2>
  );
}

function Happening({ site, event }: { site: string; event: ForecastEvent }) {
  const kind = kindWords[event.kind];
  return (
    <li className="grid grid-cols-[3.2rem_8rem_minmax(0,1fr)] items-baseline gap-2 max-md:grid-cols-[3.2rem_minmax(0,1fr)] max-md:[&>:last-child]:col-start-2 px-3 py-0.5 text-sm">
      <span className="font-semibold">{clock(event.minute)}</span>
      <span className={kind.color}>
        <span aria-hidden>{kind.mark}</span> {kind.word}
      </span>
      <span className="min-w-0">
        {event.postId ? (
          <Link to={`/${site}/write/${event.postId}`} className="font-medium hover:underline">
            {event.title}
          </Link>
        ) : (
          <span className="font-medium">{event.rule}</span>
        )}
        <span className="block truncate text-xs text-soft" title={event.text ?? event.reason}>
          {event.reason}
        </span>
      </span>
    </li>
  );
}
