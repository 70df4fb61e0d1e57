import { Download, Printer } from "lucide-react";
import { Popover, PopoverButton, PopoverPanel } from "@headlessui/react";
import { useState } from "react";
import { useParams } from "react-router";
import { Button } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { Segments } from "../../ui/Segments";
import { shownDate, siteToday } from "../../ui/siteClock";
import { Trouble } from "../../ui/Trouble";
import { Waiting } from "../../ui/Waiting";
import { useChannels } from "../channels/channels";
import { NewTourSheet } from "../tours/NewTourSheet";
import { BestHours } from "./BestHours";
import { DayChart } from "./DayChart";
import { Never } from "./Never";
import { Rows } from "./Rows";
import {
  bys,
  change,
  one,
  periods,
  tableOf,
  useAsked,
  useResults,
  type Asked,
  type Results,
} from "./results";
import { Wear } from "./Wear";

/** What was brought by what was shared: by post, channel, rule, tour, wording, line and hour, with how sure that is. */
export default function ResultsScreen() {
  const { site = "" } = useParams();
  const [asked, ask] = useAsked();
  const results = useResults(site, asked);
  const [toured, setToured] = useState<{ id: number; title: string }[]>();
  if (results.isPending) return <Waiting what="the results" />;
  if (results.error) return <Trouble error={results.error} retry={() => void results.refetch()} />;
  const r = results.data;
  return (
    <main
      aria-busy={results.isPlaceholderData}
      className="mx-auto w-full max-w-6xl px-5 pt-4 pb-12 aria-busy:renewed"
    >
      <div className="mb-2 flex flex-wrap items-end gap-3">
        <h1 className="font-title text-2xl">Results</h1>
        <span className="ml-auto" />
        <Filters site={site} asked={asked} ask={ask} />
        <TakeAway site={site} asked={asked} />
      </div>
      <Summed results={r} />
      <DayChart days={r.days} />
      <section aria-label="What brought what" className="mt-6">
        <div className="mb-2 flex flex-wrap items-center gap-3">
          <h2 className="text-base font-semibold">What brought what</h2>
          <div className="max-w-full overflow-x-auto print:hidden" data-sideways>
            <Segments label="Added up by" options={bys} value={asked.by} onChange={(by) => ask({ by })} />
          </div>
        </div>
        {r.sentence && <p className="mb-2 text-sm">{r.sentence}</p>}
        <Rows site={site} rows={r.rows} more={r.more} by={asked.by} onTour={setToured} />
      </section>
      <BestHours site={site} results={r} onZone={(zone) => ask({ zone })} />
      <Wear results={r} />
      <Never site={site} results={r} onTour={setToured} />
      {toured && <NewTourSheet site={site} posts={toured} onClose={() => setToured(undefined)} />}
    </main>
  );
}

type FiltersProps = { site: string; asked: Asked; ask: (change: Partial<Asked>) => void };

function Filters({ site, asked, ask }: FiltersProps) {
  const channels = useChannels(site).data?.channels ?? [];
  const shown = periods(siteToday());
  const period = asked.month ?? String(asked.days);
  if (!shown.some((p) => p.value === period))
    shown.push({ value: period, name: asked.month ?? `The last ${asked.days} days` });
  return (
    <>
      <div className="w-44 print:hidden">
        <Choice
          label="Period"
          value={period}
          options={shown}
          onChange={(value) =>
            ask(value.includes("-") ? { month: value } : { month: undefined, days: Number(value) })
          }
        />
      </div>
      <div className="w-44 print:hidden">
        <Choice
          label="Channel"
          value={asked.channelId}
          options={[
            { value: 0, name: "All channels" },
            ...channels.map((c) => ({ value: c.id, name: c.name })),
          ]}
          onChange={(channelId) => ask({ channelId })}
        />
      </div>
    </>
  );
}

/** The report on paper, or as a table. */
function TakeAway({ site, asked }: { site: string; asked: Asked }) {
  return (
    <div className="flex gap-1 print:hidden">
      <Button look="quiet" icon={<Printer size={14} />} onClick={() => window.print()}>
        Print
      </Button>
      <Popover>
        <PopoverButton className="inline-flex h-8 items-center gap-1.5 rounded-md px-3 text-sm text-soft data-hover:bg-sunk data-hover:text-ink">
          <Download size={14} aria-hidden /> Export
        </PopoverButton>
        <PopoverPanel
          anchor="bottom end"
          className="z-50 w-64 space-y-1.5 rounded-md border border-strong bg-sheet p-3 text-sm shadow-lifted [--anchor-gap:4px]"
        >
          <a download href={tableOf(site, asked, "xlsx")} className="block underline underline-offset-2">
            The whole report as .xlsx
          </a>
          <a download href={tableOf(site, asked, "csv")} className="block underline underline-offset-2">
            What brought what as .csv
          </a>
        </PopoverPanel>
      </Popover>
    </div>
  );
}

function Summed({ results: r }: { results: Results }) {
  const than = change(r.total, r.before);
  return (
    <p className="text-sm">
      {shownDate(r.from)} to {shownDate(r.until)}: <span className="font-semibold">{r.total.outings}</span>{" "}
      {r.total.outings === 1 ? "outing" : "outings"}, <span className="font-semibold">{r.total.clicks}</span>{" "}
      {r.total.clicks === 1 ? "click" : "clicks"}
      {r.total.outings > 0 && (
        <>
          , <span className="font-semibold">{one(r.total.rate)}</span> an outing ({one(r.total.low)} to{" "}
          {one(r.total.high)})
        </>
      )}
      {than && <span className="text-soft">; {than} than in the period before</span>}.
    </p>
  );
}
