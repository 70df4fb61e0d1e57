import { Undo2 } from "lucide-react";
import { Link } from "react-router";
import { Button } from "../../ui/Button";
import { shownPlace } from "../../ui/siteClock";
import { useSay } from "../../ui/toast";
import { useUndo } from "../logbook/logbook";
import { over, useHistory, useRuleDeeds, type Rule } from "./rules";

/** What a rule did so far: its turns, its messages, and what was excluded by hand. */
export function History({ site, rule }: { site: string; rule: Rule }) {
  const history = useHistory(site, rule.id);
  const undo = useUndo(site);
  const deeds = useRuleDeeds(site);
  const say = useSay();
  if (!history.data) return null;
  const { runs, outings, excluded, refused } = history.data;
  const share = rule.kind === "reshare";
  return (
    <section aria-label="So far" className="mt-6 border-t border-line pt-3">
      <h2 className="mb-1 text-base font-semibold">So far</h2>
      {runs.length === 0 && <p className="text-sm text-soft">It has had no turn yet.</p>}
      {!share && runs.length > 0 && (
        <ul className="divide-y divide-line border-y border-line text-sm">
          {runs.map((r) => (
            <li key={r.at} className="flex items-center gap-3 py-1">
              <span className="w-32 font-semibold">{shownPlace(r)}</span>
              <span>
                took {r.took} of {r.caught}
                {r.byHand && ", by hand"}
              </span>
              <span className="truncate text-soft">{r.note}</span>
              {r.took > 0 && r.logId ? (
                <Button
                  look="quiet"
                  className="ml-auto"
                  icon={<Undo2 size={14} />}
                  disabled={undo.isPending}
                  onClick={() =>
                    undo
                      .mutateAsync(r.logId!)
                      .then(
                        () => say.done("The run is undone. The rule does nothing until you resume it."),
                        say.trouble,
                      )
                  }
                >
                  Undo this run
                </Button>
              ) : (
                <span className="ml-auto h-8" />
              )}
            </li>
          ))}
        </ul>
      )}
      {share && (
        <ul className="divide-y divide-line border-y border-line text-sm">
          {outings.map((o) => (
            <li key={o.id} className="flex gap-3 py-1">
              <span className="w-32 shrink-0 font-semibold">{shownPlace(o)}</span>
              <span className="min-w-0 flex-1 truncate" title={o.text}>
                {o.text}
              </span>
              <span
                className={`shrink-0 ${o.state === "failed" ? "text-madder" : "text-soft"}`}
                title={o.error ?? ""}
              >
                {o.state === "sent" ? (o.clicks === 1 ? "1 click" : `${o.clicks} clicks`) : o.state}
              </span>
              {o.url && (
                <a
                  href={o.url}
                  target="_blank"
                  rel="noreferrer"
                  className="shrink-0 underline underline-offset-2"
                >
                  Read it
                </a>
              )}
            </li>
          ))}
        </ul>
      )}
      {refused.length > 0 && (
        <section aria-label="Refused" className="mt-3">
          <h3 className="text-sm font-semibold">Refused</h3>
          <p className="text-xs text-soft">
            Not sent again until the wording or the post changes; the rule goes on with other posts.
          </p>
          <ul className="divide-y divide-line border-y border-line text-sm">
            {refused.map((r) => (
              <li key={r.at + r.postId} className="flex gap-3 py-1">
                <span className="w-32 shrink-0 font-semibold">{shownPlace(r)}</span>
                <span className="min-w-0 flex-1">
                  <Link to={`/${site}/write/${r.postId}`} className="underline underline-offset-2">
                    {r.title}
                  </Link>{" "}
                  <span className="text-soft">
                    by {r.channel}, in wording {r.wording + 1}
                  </span>
                  <span className="block wrap-anywhere text-madder">
                    {r.reason}
                    {r.over ? ` It is ${over(r.over)}.` : ""}
                  </span>
                </span>
              </li>
            ))}
          </ul>
        </section>
      )}
      {excluded.length > 0 && (
        <>
          <h3 className="mt-3 text-sm font-semibold">Excluded by hand</h3>
          <ul className="text-sm">
            {excluded.map((p) => (
              <li key={p.id} className="flex items-center gap-3">
                <Link to={`/${site}/write/${p.id}`} className="truncate underline underline-offset-2">
                  {p.title}
                </Link>
                <Button
                  look="quiet"
                  onClick={() => deeds.exclude.mutate({ id: rule.id, post: p.id, excluded: false })}
                >
                  Include it again
                </Button>
              </li>
            ))}
          </ul>
        </>
      )}
    </section>
  );
}
