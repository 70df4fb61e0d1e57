import { scaleBand, scaleLinear } from "d3-scale";
import { Fold } from "../../ui/Fold";
import { shownDate } from "../../ui/siteClock";
import { barsOf, type Bar, type Day } from "./results";

const width = 1000;
const height = { clicks: 96, outings: 40 };

/** Clicks and outings by day, or by week where there are many days, with the same as a table. */
export function DayChart({ days }: { days: Day[] }) {
  const bars = barsOf(days);
  const weekly = days.length > 120;
  if (bars.every((b) => b.clicks === 0 && b.outings === 0)) return null;
  const x = scaleBand<number>()
    .domain(bars.map((_, i) => i))
    .range([0, width])
    .paddingInner(0.2);
  const every = Math.ceil(bars.length / 8);
  const name = (b: Bar) => (b.from === b.until ? shownDate(b.from) : `week from ${shownDate(b.from)}`);
  return (
    <section aria-label="Day by day" className="mt-4 break-inside-avoid">
      <h2 className="text-base font-semibold">{weekly ? "Week by week" : "Day by day"}</h2>
      <Bars bars={bars} x={x} of="clicks" title={name} />
      <Bars bars={bars} x={x} of="outings" title={name} />
      <div aria-hidden className="@container relative h-5 overflow-hidden text-xs text-faint">
        {bars.map(
          (b, i) =>
            i % every === 0 && (
              <span
                key={b.from}
                className={`absolute whitespace-nowrap ${i > bars.length * 0.9 ? "-translate-x-full" : ""} ${(i / every) % 2 === 1 ? "@max-3xl:hidden" : ""}`}
                style={{ left: `${((x(i) ?? 0) / width) * 100}%` }}
              >
                {shownDate(b.from).replace(/^\w+ /, "")}
              </span>
            ),
        )}
      </div>
      <div className="print:hidden">
        <Fold title="The same as a table" summary={`${bars.length} ${weekly ? "weeks" : "days"}`}>
          <div className="max-h-72 overflow-auto">
            <table className="border-collapse text-sm">
              <thead>
                <tr className="text-left text-xs text-soft">
                  <th className="pr-6 font-normal">{weekly ? "Week from" : "Date"}</th>
                  <th className="pr-6 text-right font-normal">Clicks</th>
                  <th className="text-right font-normal">Outings</th>
                </tr>
              </thead>
              <tbody>
                {bars.map((b) => (
                  <tr key={b.from}>
                    <td className="pr-6">{shownDate(b.from)}</td>
                    <td className="pr-6 text-right tabular-nums">{b.clicks}</td>
                    <td className="text-right tabular-nums">{b.outings}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
        </Fold>
      </div>
    </section>
  );
}

type BarsProps = {
  bars: Bar[];
  x: ReturnType<typeof scaleBand<number>>;
  of: "clicks" | "outings";
  title: (b: Bar) => string;
};

function Bars({ bars, x, of, title }: BarsProps) {
  const most = Math.max(...bars.map((b) => b[of]), 1);
  const tall = height[of];
  const y = scaleLinear().domain([0, most]).range([0, tall]);
  return (
    <div className="mt-1">
      <p className="text-xs text-soft">
        {of === "clicks" ? "Clicks" : "Outings"}, at most {most}
      </p>
      <svg
        role="img"
        aria-label={of === "clicks" ? "Clicks" : "Outings"}
        viewBox={`0 0 ${width} ${tall}`}
        preserveAspectRatio="none"
        className="w-full border-b border-strong"
        style={{ height: tall }}
      >
        {bars.map((b, i) => (
          <rect
            key={b.from}
            x={x(i)}
            y={tall - y(b[of])}
            width={x.bandwidth()}
            height={y(b[of])}
            className={of === "clicks" ? "fill-share" : "fill-strong"}
          >
            <title>{`${title(b)}: ${b[of]}`}</title>
          </rect>
        ))}
      </svg>
    </div>
  );
}
