import type { Difference } from "./timed";

/** How much of a stretch that stayed is shown around what changed, in characters. */
const around = 120;

/** What differs between two texts, word by word: what goes is struck through, what comes is underlined. */
export function Differences({ all }: { all: Difference[] }) {
  if (all.length === 0) return <p className="text-sm text-soft">Nothing differs.</p>;
  return (
    <dl className="space-y-3 text-sm">
      {all.map((d) => (
        <div key={d.part}>
          <dt className="text-xs text-soft">{d.part[0]!.toUpperCase() + d.part.slice(1)}</dt>
          <dd className="wrap-anywhere whitespace-pre-wrap">
            {d.runs.map((r, i) => {
              if (r.kind === "removed")
                return (
                  <del key={i} className="bg-madder/10 text-madder">
                    {visible(r.text)}
                  </del>
                );
              if (r.kind === "added")
                return (
                  <ins key={i} className="bg-open decoration-2 underline-offset-2">
                    {visible(r.text)}
                  </ins>
                );
              return <span key={i}>{shortened(r.text, i > 0, i < d.runs.length - 1)}</span>;
            })}
          </dd>
        </div>
      ))}
    </dl>
  );
}

/** A text of which something is seen, also where it is nothing but line breaks. */
const visible = (text: string) => (text.trim() === "" ? text.replaceAll("\n", "¶\n") : text);

/** The beginning and the end of a long stretch, where something stands before it and after it. */
function shortened(text: string, before: boolean, after: boolean) {
  if (text.length <= 2 * around) return text;
  const head = before ? text.slice(0, around) : "";
  const tail = after ? text.slice(-around) : "";
  return (
    <>
      {head}
      <span className="text-faint"> … </span>
      {tail}
    </>
  );
}
