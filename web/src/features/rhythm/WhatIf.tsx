import type { Schemas } from "../../api/client";
import { shownDate, shownPlace } from "../../ui/siteClock";
import { Warning } from "../../ui/Trouble";
import { comparedWeeks, useWhatIf, type Change } from "./seasons";

type Outlook = Schemas["Outlook"];

const weekdays = ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"];

/** What if: the rhythm as it stands in the form, held against the one that is kept. */
export function WhatIf({ site, change }: { site: string; change: Change }) {
  const answer = useWhatIf(site, change);
  if (answer.error) return <Warning>{answer.error.message}</Warning>;
  const what = answer.data;
  if (!what) return null;
  const rows: { name: string; value: (o: Outlook) => string }[] = [
    { name: "Posts a week, if every slot is filled", value: (o) => o.perWeek.toFixed(1) },
    { name: "First slot of the shelf", value: (o) => placeOf(o.first) },
    { name: "Last slot of the shelf", value: (o) => placeOf(o.last) },
    { name: "Drafts without a slot", value: (o) => String(o.left) },
    { name: "The shelf runs dry", value: (o) => (o.dry ? shownDate(o.dry) : `not in ${what.weeks} weeks`) },
    {
      name: "Longest pause",
      value: (o) => (o.pause === 0 ? "none" : o.pause === 1 ? "1 day" : `${o.pause} days`),
    },
    {
      name: "Days between two of a category",
      value: (o) =>
        o.apartLeast === 0 && o.apartMean === 0
          ? "none comes twice"
          : `${o.apartMean.toFixed(1)} on average, ${o.apartLeast} at least`,
    },
  ];
  return (
    <section aria-labelledby="what-if" aria-busy={answer.isFetching} className="mb-4">
      <h2 id="what-if" className="mb-1 text-base font-semibold">
        What if
        <span className="ml-3 text-sm font-normal text-soft">the next {comparedWeeks} weeks</span>
      </h2>
      <table className="w-full max-w-3xl rounded-md border border-line bg-sheet text-sm">
        <thead className="text-left text-xs text-soft">
          <tr>
            <th className="px-3 py-1 font-normal">
              <span className="sr-only">What</span>
            </th>
            <th className="px-3 py-1 font-normal">As it is</th>
            <th className="px-3 py-1 font-normal">As in the form</th>
          </tr>
        </thead>
        <tbody className="divide-y divide-line">
          {rows.map(({ name, value }) => {
            const [now, then] = [value(what.present), value(what.changed)];
            return (
              <tr key={name}>
                <th scope="row" className="px-3 py-1 text-left font-normal text-soft">
                  {name}
                </th>
                <td className="px-3 py-1">{now}</td>
                <td className={`px-3 py-1 ${now === then ? "text-soft" : "font-semibold"}`}>{then}</td>
              </tr>
            );
          })}
          <tr>
            <th scope="row" className="px-3 py-1 text-left font-normal text-soft">
              Posts by weekday
            </th>
            <td className="px-3 py-1">
              <Days counts={what.present.weekdays} />
            </td>
            <td className="px-3 py-1">
              <Days counts={what.changed.weekdays} />
            </td>
          </tr>
        </tbody>
      </table>
    </section>
  );
}

function placeOf(place: Outlook["first"]): string {
  return place ? `${shownPlace(place)}` : "none";
}

/** How many posts fall on each weekday, as small columns with their numbers. */
function Days({ counts }: { counts: number[] }) {
  const most = Math.max(...counts, 1);
  return (
    <span className="flex items-end gap-1.5">
      {counts.map((n, i) => (
        <span key={weekdays[i]} className="flex w-6 flex-col items-center text-xs text-soft">
          <span className="text-ink">{n}</span>
          <span
            aria-hidden
            className="w-full bg-chalk"
            style={{ height: `${Math.round((n / most) * 20)}px` }}
          />
          {weekdays[i]}
        </span>
      ))}
    </span>
  );
}
