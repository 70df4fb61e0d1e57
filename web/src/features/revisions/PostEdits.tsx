import { Link } from "react-router";
import { shownPlace } from "../../ui/siteClock";
import { Differences } from "./Differences";
import { useEditsOf } from "./timed";

/** The timed edits that wait for a post, in order of their time, with what each changes. */
export function PostEdits({ site, post, editor }: { site: string; post: number; editor: boolean }) {
  const edits = useEditsOf(site, post);
  return (
    <>
      {edits.data?.edits.map((e) => (
        <section key={e.id} aria-label={`Edit for ${shownPlace(e.at)}`} className="border-b border-line pb-2">
          <p className="flex flex-wrap items-baseline gap-x-2">
            <span className="font-semibold tabular-nums">{shownPlace(e.at)}</span>
            {e.yearly && <span className="text-soft">every year</span>}
            <Link to={`/${site}/edits/${e.id}`} className="ml-auto underline underline-offset-2">
              {e.state === "held" ? "Settle it" : "Open"}
            </Link>
          </p>
          {e.state === "held" && <p className="text-madder">{e.why}</p>}
          {e.state === "waiting" && e.clashes.length > 0 && (
            <p className="text-madder">It clashes with what the post says now.</p>
          )}
          {(e.differences.length > 0 || e.clashes.length === 0) && (
            <details className="mt-1">
              <summary className="cursor-pointer text-soft">
                Changes {e.differences.map((d) => d.part).join(", ") || "nothing any more"}
              </summary>
              <div className="mt-2 max-h-80 overflow-y-auto">
                <Differences all={e.differences} />
              </div>
            </details>
          )}
        </section>
      ))}
      {edits.data?.edits.length === 0 && (
        <p className="text-soft">Until its time, readers see the post as it is now.</p>
      )}
      {editor && (
        <Link
          to={`/${site}/edits/new?post=${post}`}
          className="inline-flex h-8 items-center rounded-md border border-strong bg-sheet px-3 text-sm hover:bg-sunk"
        >
          Change it at a time…
        </Link>
      )}
    </>
  );
}
