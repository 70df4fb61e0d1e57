import type { Results } from "./results";

/** What is left of the clicks when posts are shared again, by category. */
export function Wear({ results: r }: { results: Results }) {
  if (r.wear.length === 0) return null;
  const most = Math.max(...r.wear.flatMap((c) => c.wear.map((w) => w.nth)));
  const nths = Array.from({ length: most - 1 }, (_, i) => i + 2);
  return (
    <section aria-label="Sharing again" className="mt-7 break-inside-avoid">
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
