import { useState } from "react";
import { Link } from "react-router";
import { Button } from "../../ui/Button";
import { usePlanner } from "../session/session";
import { change, leadsTo, nameOf, one, type By, type Row } from "./results";

const atFirst = 15; // rows shown until all are asked for

type Props = {
  site: string;
  rows: Row[];
  more: number;
  by: By;
  onTour: (posts: { id: number; title: string }[]) => void;
};

/** What outings brought, row by row, with how sure that is. */
export function Rows({ site, rows, more, by, onTour }: Props) {
  const planner = usePlanner(site);
  const [all, setAll] = useState(false);
  const shown = all ? rows : rows.slice(0, atFirst);
  if (rows.length === 0)
    return (
      <p className="rounded-md border border-dashed border-strong px-3 py-4 text-sm text-soft">
        Nothing of the kind was shared in this period.
      </p>
    );
  const widest = Math.max(...rows.map((r) => r.now.high), 0.1);
  return (
    <div className="@container">
      <table className="w-full table-fixed border-collapse text-sm">
        <thead>
          <tr className="border-b border-line text-left text-xs text-soft">
            <th className="py-1 font-normal">Name</th>
            <th className="w-20 py-1 text-right font-normal">Outings</th>
            <th className="w-20 py-1 text-right font-normal">Clicks</th>
            <th className="w-64 py-1 pl-4 font-normal @max-2xl:hidden">Clicks an outing</th>
            <th className="w-32 py-1 pl-3 font-normal @max-2xl:hidden">Against before</th>
          </tr>
        </thead>
        <tbody>
          {shown.map((row) => {
            const to = leadsTo(site, row, by);
            const name = nameOf(row, by);
            return (
              <tr key={`${row.of}${row.id}:${row.n}:${row.name}`} className="border-b border-line">
                <td className="py-1.5" title={name}>
                  {to ? (
                    <Link to={to} className="block truncate underline-offset-2 hover:underline">
                      {name}
                    </Link>
                  ) : (
                    <span className="block truncate">{name}</span>
                  )}
                  {row.worth && (
                    <span className="text-xs text-share">
                      worth sharing again
                      {planner && (
                        <button
                          type="button"
                          className="hit relative ml-2 text-soft underline underline-offset-2 print:hidden"
                          onClick={() => onTour([{ id: row.id, title: row.name }])}
                        >
                          Begin a tour
                        </button>
                      )}
                    </span>
                  )}
                  {row.worn && (
                    <span className="text-xs text-madder">
                      brings less than usual
                      <Link
                        to={`/${site}/upkeep`}
                        className="hit relative ml-2 text-soft underline underline-offset-2 print:hidden"
                      >
                        Age map
                      </Link>
                    </span>
                  )}
                </td>
                <td className="py-1.5 text-right tabular-nums">{row.now.outings}</td>
                <td className="py-1.5 text-right tabular-nums">{row.now.clicks}</td>
                <td className="py-1.5 pl-4 @max-2xl:hidden">
                  <Rate row={row} widest={widest} />
                </td>
                <td className="py-1.5 pl-3 text-soft @max-2xl:hidden">{change(row.now, row.before)}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
      {rows.length > atFirst && (
        <Button look="quiet" className="mt-1 -ml-3" onClick={() => setAll(!all)}>
          {all ? "Show fewer" : `Show all ${rows.length}`}
        </Button>
      )}
      {all && more > 0 && <p className="mt-1 text-sm text-soft">{more} more are not shown.</p>}
    </div>
  );
}

/** A rate as a dot on the stretch that holds it with a probability of 90 %. */
function Rate({ row, widest }: { row: Row; widest: number }) {
  const at = (n: number) => `${(Math.min(n, widest) / widest) * 100}%`;
  const { rate, low, high } = row.now;
  return (
    <span className="flex items-center gap-2" title={`${one(low)} to ${one(high)}`}>
      <span className="w-8 text-right tabular-nums">{one(rate)}</span>
      <span aria-hidden className="relative h-3 flex-1">
        <span
          className="absolute top-1.5 h-px bg-strong"
          style={{ left: at(low), width: `calc(${at(high)} - ${at(low)})` }}
        />
        <span
          className="absolute top-0.5 size-2 -translate-x-1/2 rounded-full bg-share"
          style={{ left: at(rate) }}
        />
      </span>
      <span className="sr-only">
        {one(low)} to {one(high)}
      </span>
    </span>
  );
}
