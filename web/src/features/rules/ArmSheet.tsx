import { useState } from "react";
import { Refusal } from "../../api/client";
import { Button } from "../../ui/Button";
import { NumberField } from "../../ui/NumberField";
import { Sheet } from "../../ui/Sheet";
import { useSay } from "../../ui/toast";
import { Warning } from "../../ui/Trouble";
import { useRuleDeeds, type Preview, type Rule } from "./rules";

type Props = {
  site: string;
  rule: Rule;
  preview: Preview;
  /** Whether to run once, rather than to put it into action. */
  run: boolean;
  onClose: () => void;
};

/** What becomes of posts, after "will be" or "were". */
export const verbs: Record<string, string> = {
  archive: "archived",
  draft: "taken back to draft",
  bin: "put into the bin",
  category: "moved to another category",
  tag: "tagged",
  notice: "given a notice",
  comments: "closed to comments",
  delete: "deleted for good",
};

/** Shows exactly what arming or running a rule would take, before it does. */
export function ArmSheet({ site, rule, preview, run, onClose }: Props) {
  const deeds = useRuleDeeds(site);
  const say = useSay();
  const [confirm, setConfirm] = useState(0);
  // When the catch has changed meanwhile, the answer holds the new one.
  const [seen, setSeen] = useState(preview);
  const doing = run ? deeds.run : deeds.arm;
  const expire = rule.kind === "expire";
  const verb = verbs[rule.action ?? "archive"];
  const go = () =>
    doing.mutateAsync({ id: rule.id, version: rule.version ?? 0, token: seen.token, confirm }).then(
      (done) => {
        say.done(
          run
            ? `${(done as { took: number }).took} were ${verb}.${seen.forGood ? "" : " Undo it from the logbook."}`
            : "Rule turned on.",
        );
        onClose();
      },
      (error: unknown) => {
        if (error instanceof Refusal && error.problem.catch) setSeen(error.problem.catch);
      },
    );
  return (
    <Sheet
      open
      onClose={onClose}
      title={run ? "Run now" : rule.state === "held" ? "Resume the rule" : "Turn the rule on"}
      actions={
        <>
          <Button onClick={onClose}>Cancel</Button>
          <Button
            look="main"
            disabled={doing.isPending || seen.all || (seen.wide && confirm !== seen.count)}
            onClick={() => void go()}
          >
            {run ? "Run now" : rule.state === "held" ? "Resume" : "Turn on"}
          </Button>
        </>
      }
    >
      {doing.error && <Warning>{doing.error.message}</Warning>}
      <p className="mb-2">
        {expire ? (
          <>
            <span className="font-semibold">{seen.count}</span>{" "}
            {seen.forGood ? "posts in the bin" : `of ${seen.published} published posts`}{" "}
            {seen.count === 1 ? "matches" : "match"} now and will be {verb}
            {run
              ? ""
              : rule.tellDays
                ? `, ${rule.tellDays} days after their authors were told`
                : " at its next turn"}
            .
            {seen.later > 0 &&
              ` A run takes ${rule.mostARun} at most, so ${seen.later} of them wait for ${run ? "another" : "later turns"}.`}{" "}
            {!run && `From then on it runs ${seen.often}.`}
          </>
        ) : (
          <>
            It runs {seen.often}. <span className="font-semibold">{seen.count}</span> posts may come out by it
            now.
          </>
        )}
      </p>
      {seen.all && <Warning>It matches every published post. Narrow its conditions first.</Warning>}
      {seen.wide && !seen.all && (
        <div className="my-3 flex items-center gap-3">
          <Warning>
            {seen.forGood ? "That can’t be undone." : "That is more than a fifth of the blog."} Type the
            number to confirm.
          </Warning>
          <NumberField
            label="How many posts"
            hideLabel
            className="w-20! text-center"
            value={confirm}
            onChange={setConfirm}
          />
        </div>
      )}
      <ul className="divide-y divide-line border-y border-line">
        {(expire ? seen.posts : []).map((p) => (
          <li key={p.id} className="py-1.5">
            <span className="block text-sm font-medium">{p.title}</span>
            <span className="block text-xs text-soft">{p.reason}</span>
          </li>
        ))}
        {!expire &&
          seen.coming.slice(0, 3).map((e) => (
            <li key={e.at} className="py-1.5 text-sm whitespace-pre-wrap">
              {e.text || e.title}
            </li>
          ))}
      </ul>
      {expire && seen.count > seen.posts.length && (
        <p className="mt-2 text-sm text-soft">and {seen.count - seen.posts.length} more.</p>
      )}
    </Sheet>
  );
}
