import { useState } from "react";
import { Link, useParams } from "react-router";
import { Choice } from "../../ui/Choice";
import { Segments } from "../../ui/Segments";
import { shownDate } from "../../ui/siteClock";
import { Trouble } from "../../ui/Trouble";
import { Waiting } from "../../ui/Waiting";
import { useChannels } from "../channels/channels";
import { Rows } from "./Rows";
import { bys, change, one, periods, useResults, type By, type Results } from "./results";
import { WeekMap } from "./WeekMap";

/** What was brought by what was shared: by post, channel, rule, tour, wording and hour, with how sure that is. */
export default function ResultsScreen() {
  const { site = "" } = useParams();
  const [by, setBy] = useState<By>("post");
  const [days, setDays] = useState("90");
  const [channelId, setChannel] = useState(0);
  const results = useResults(site, { by, days: Number(days), channelId });
  const channels = useChannels(site).data?.channels ?? [];
  if (results.isPending) return <Waiting what="the results" />;
  if (results.error) return <Trouble error={results.error} retry={() => void results.refetch()} />;
  const r = results.data;
  return (
    <main
      className={`mx-auto w-full max-w-6xl px-5 pt-4 pb-12 ${results.isPlaceholderData ? "opacity-60" : ""}`}
    >
      <div className="mb-2 flex flex-wrap items-center gap-3">
        <h1 className="font-title text-2xl">Results</h1>
        <span className="ml-auto" />
        <Segments label="Period" options={periods} value={days} onChange={setDays} />
        <div className="w-44">
          <Choice
            label="Channel"
            value={channelId}
            options={[
              { value: 0, name: "All channels" },
              ...channels.map((c) => ({ value: c.id, name: c.name })),
            ]}
            onChange={setChannel}
          />
        </div>
      </div>
      <Summed results={r} />
      <section aria-label="What brought what" className="mt-5">
        <div className="mb-2 flex flex-wrap items-center gap-3">
          <h2 className="text-base font-semibold">What brought what</h2>
          <div className="max-w-full overflow-x-auto" data-sideways>
            <Segments label="Added up by" options={bys} value={by} onChange={setBy} />
          </div>
        </div>
        {r.sentence && <p className="mb-2 text-sm">{r.sentence}</p>}
        <Rows site={site} rows={r.rows} more={r.more} by={by} />
      </section>
      <section aria-label="Best hours" className="mt-7">
        <h2 className="text-base font-semibold">Best hours</h2>
        <p className="text-sm text-soft">
          Clicks an outing by when it went out, smoothed over neighbouring hours: the darker the more. Dotted
          hours are too little known to say.
        </p>
        <WeekMap hours={r.hours} zone={r.zone} />
      </section>
      <Wear results={r} />
      <section aria-label="Never shared" className="mt-7">
        <h2 className="text-base font-semibold">Never shared</h2>
        {r.nevers === 0 ? (
          <p className="text-sm text-soft">Every post that is out has been shared.</p>
        ) : (
          <>
            <p className="mb-1 text-sm text-soft">
              {r.nevers === 1 ? "1 post that is out was" : `${r.nevers} posts that are out were`} never
              shared. The latest:
            </p>
            <ul className="text-sm md:columns-2">
              {r.never.map((p) => (
                <li key={p.id} className="py-0.5">
                  <Link
                    to={`/${site}/write/${p.id}`}
                    className="block truncate underline-offset-2 hover:underline"
                  >
                    {p.title || "Untitled"}
                  </Link>
                </li>
              ))}
            </ul>
          </>
        )}
      </section>
    </main>
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

/** What is left of the clicks when posts are shared again, by category. */
function Wear({ results: r }: { results: Results }) {
  if (r.wear.length === 0) return null;
  const most = Math.max(...r.wear.flatMap((c) => c.wear.map((w) => w.nth)));
  const nths = Array.from({ length: most - 1 }, (_, i) => i + 2);
  return (
    <section aria-label="Sharing again" className="mt-7">
      <h2 className="text-base font-semibold">Sharing again</h2>
      <p className="mb-1 text-sm text-soft">
        Clicks of a post’s second, third and later outing on a channel, against its first.
      </p>
      <div className="overflow-x-auto" data-sideways>
        <table className="w-full border-collapse text-sm">
          <thead>
            <tr className="border-b border-line text-left text-xs text-soft">
              <th className="py-1 font-normal">Category</th>
              {nths.map((n) => (
                <th key={n} className="py-1 pl-3 font-normal">
                  {n}.
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {r.wear.map((c) => (
              <tr key={c.name} className="border-b border-line">
                <td className="py-1.5">{c.name || "No category"}</td>
                {nths.map((n) => {
                  const w = c.wear.find((one) => one.nth === n);
                  return (
                    <td key={n} className="py-1.5 pl-3 whitespace-nowrap">
                      {w && (
                        <>
                          {Math.round(w.times * 100)} %{" "}
                          <span className="text-xs text-faint">
                            {Math.round(w.low * 100)} to {Math.round(w.high * 100)}
                          </span>
                        </>
                      )}
                    </td>
                  );
                })}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </section>
  );
}
