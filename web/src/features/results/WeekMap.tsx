import type { Hour } from "./results";

const days = ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"];

/** Clicks an outing by the hour of the week: the darker the more. Hours of which little is known are dotted. */
export function WeekMap({ hours, zone }: { hours: Hour[][]; zone: string }) {
  const known = hours.flat().filter((h) => !h.thin);
  const most = Math.max(...known.map((h) => h.rate), 0.01);
  const least = Math.min(...known.map((h) => h.rate), most);
  const shade = (h: Hour) => (most > least ? (h.rate - least) / (most - least) : 0.5);
  return (
    <table className="w-full table-fixed border-separate border-spacing-px text-xs">
      <caption className="pb-1 text-left text-sm text-soft">
        By the clocks of {zone.replaceAll("_", " ")}.
      </caption>
      <thead>
        <tr className="text-faint">
          <th className="w-9">
            <span className="sr-only">Day</span>
          </th>
          {Array.from({ length: 24 }, (_, h) => (
            <th key={h} scope="col" className="font-normal tabular-nums">
              {h % 3 === 0 ? h : <span className="sr-only">{h}</span>}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {hours.map((day, d) => (
          <tr key={days[d]}>
            <th scope="row" className="text-left font-normal text-soft">
              {days[d]}
            </th>
            {day.map((h, i) => (
              <td
                key={i}
                title={`${days[d]} ${i}:00: ${say(h)}`}
                className={`h-6 rounded-sm ${h.thin ? "border border-dotted border-strong" : ""}`}
                style={
                  h.thin
                    ? undefined
                    : {
                        backgroundColor: `color-mix(in srgb, var(--share) ${12 + Math.round(shade(h) * 78)}%, var(--sheet))`,
                      }
                }
              >
                <span className="sr-only">{say(h)}</span>
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function say(h: Hour): string {
  const outings = h.outings === 1 ? "1 outing" : `${h.outings} outings`;
  if (h.thin) return `too little known (${outings})`;
  return `${h.rate.toFixed(1)} clicks an outing, ${h.low.toFixed(1)} to ${h.high.toFixed(1)} (${outings})`;
}
