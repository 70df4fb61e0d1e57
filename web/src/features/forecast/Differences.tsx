import { useMutation } from "../../api/mutation";
import { answer, api, type Schemas } from "../../api/client";
import { Button } from "../../ui/Button";
import { shownPlace } from "../../ui/siteClock";
import { Warning } from "../../ui/Trouble";
import { kindWords } from "./kinds";

type Change = Schemas["CompareInputBody"];

const words = { comes: "would come", goes: "would not come", moves: "would move" };

/** Before a rule or rhythm is saved: what it would change of what is foretold. */
export function Differences({ site, change }: { site: string; change: Change }) {
  const compare = useMutation({
    mutationFn: (body: Change) =>
      answer(api.POST("/api/v1/sites/{site}/forecast/compare", { params: { path: { site } }, body })),
  });
  const result = compare.data;
  return (
    <section aria-label="What it changes" className="mt-5">
      <div className="flex items-center gap-3">
        <h2 className="text-base font-semibold">What it changes</h2>
        <Button disabled={compare.isPending} onClick={() => compare.mutate(change)}>
          {compare.isPending ? "Foretelling…" : "Compare the forecast"}
        </Button>
        {result && (
          <p role="status" className="text-sm text-soft">
            In {result.days} days: {result.comes} more, {result.goes} fewer, {result.moves} at another time.
          </p>
        )}
      </div>
      {compare.error && <Warning>{compare.error.message}</Warning>}
      {result && (
        <>
          {result.warnings.map((w) => (
            <div key={w.text} className="mt-2">
              <Warning>{w.text}</Warning>
            </div>
          ))}
          <ul className="mt-2 max-h-72 divide-y divide-line overflow-y-auto border-y border-line text-sm empty:hidden">
            {result.changes.map((c, i) => (
              <li
                key={i}
                className="grid grid-cols-[8rem_8.5rem_minmax(0,1fr)] max-md:grid-cols-1 gap-2 py-1"
              >
                <span className="font-semibold">{shownPlace(c)}</span>
                <span className={c.how === "goes" ? "text-madder" : "text-chalk"}>
                  {kindWords[c.kind].word} {words[c.how]}
                </span>
                <span className="truncate">
                  {c.title}
                  {c.was && <span className="text-soft"> from {shownPlace(c.was)}</span>}
                </span>
              </li>
            ))}
          </ul>
        </>
      )}
    </section>
  );
}
