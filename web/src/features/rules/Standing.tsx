import { Button } from "../../ui/Button";
import { useSay } from "../../ui/toast";
import { DeleteRule } from "./DeleteRule";
import { StateWord } from "./StateWord";
import { useRuleDeeds, type Preview, type Rule } from "./rules";
import { shownPlace } from "../../ui/siteClock";

type Props = {
  site: string;
  rule: Rule;
  preview: Preview | undefined;
  /** Whether the form holds what is not saved. */
  changed: boolean;
  ready: boolean;
  onArm: () => void;
  onRun: () => void;
};

/** How a rule stands, and what can be done about it. */
export function Standing({ site, rule, preview, changed, ready, onArm, onRun }: Props) {
  const deeds = useRuleDeeds(site);
  const say = useSay();
  const seen = { id: rule.id, version: rule.version ?? 0 };
  return (
    <section
      aria-label="Status"
      className="mb-4 flex flex-wrap items-center gap-x-4 gap-y-2 rounded-md border border-line bg-sheet px-4 py-2 text-sm"
    >
      <StateWord state={rule.state} />
      {rule.state === "held" && <span className="max-w-xl text-madder">{rule.heldWhy}</span>}
      {rule.next && (
        <span>
          Next: <span className="font-semibold">{shownPlace(rule.next)}</span>{" "}
          <span className="text-faint">({rule.nextOnServer} on the server)</span>
        </span>
      )}
      {rule.last && (
        <span className="text-soft">
          Last: {shownPlace(rule.last)}, {rule.last.took === 1 ? "1 post" : `${rule.last.took} posts`}
          {rule.last.note && ` (${rule.last.note})`}
          {rule.lastOnServer && <span className="text-faint"> · {rule.lastOnServer} on the server</span>}
        </span>
      )}
      {changed && <span className="text-soft">Save the rule first: it runs as it was saved.</span>}
      <div className="ml-auto flex gap-2">
        {rule.kind === "expire" && (
          <Button disabled={changed || !ready} onClick={onRun}>
            Run now…
          </Button>
        )}
        {rule.state !== "off" && (
          <Button
            disabled={deeds.disarm.isPending}
            onClick={() =>
              deeds.disarm.mutateAsync(seen).then(() => say.done("Rule turned off."), say.trouble)
            }
          >
            Turn off
          </Button>
        )}
        {rule.state !== "armed" && (
          <Button look={changed ? "plain" : "main"} disabled={changed || !ready} onClick={onArm}>
            {rule.state === "held" ? "Resume…" : "Turn on…"}
          </Button>
        )}
        <DeleteRule site={site} rule={rule} preview={preview} />
      </div>
    </section>
  );
}
