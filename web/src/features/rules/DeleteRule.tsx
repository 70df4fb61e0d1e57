import { useRefresh } from "../../api/live";
import { useState } from "react";
import { useNavigate } from "react-router";
import { Button } from "../../ui/Button";
import { Sheet } from "../../ui/Sheet";
import { shownPlace } from "../../ui/siteClock";
import { Warning } from "../../ui/Trouble";
import { afterSave } from "../../ui/Unsaved";
import { useTell } from "../logbook/useTell";
import { useRuleDeeds, type Preview, type Rule } from "./rules";

type Props = { site: string; rule: Rule; preview: Preview | undefined };

/** Deletes a rule, once one has seen what it does now. */
export function DeleteRule({ site, rule, preview }: Props) {
  const [open, setOpen] = useState(false);
  const { remove } = useRuleDeeds(site);
  const refresh = useRefresh(site);
  const navigate = useNavigate();
  const tell = useTell(site);
  const go = () =>
    remove.mutateAsync({ id: rule.id, version: rule.version ?? 0 }).then(
      () => {
        tell(`Rule “${rule.name}” deleted.`);
        // First away from here: the rule of this screen is gone from the list then.
        void navigate(`/${site}/rules`, { state: afterSave });
        refresh("rules", "plan");
      },
      () => undefined,
    );
  return (
    <>
      <Button look="trouble" onClick={() => setOpen(true)}>
        Delete…
      </Button>
      <Sheet
        open={open}
        onClose={() => setOpen(false)}
        title="Delete the rule"
        actions={
          <>
            <Button onClick={() => setOpen(false)}>Cancel</Button>
            <Button look="trouble" disabled={remove.isPending} onClick={() => void go()}>
              Delete “{rule.name.length > 40 ? `${rule.name.slice(0, 38)}…` : rule.name}”
            </Button>
          </>
        }
      >
        <div className="space-y-2 text-sm">
          {remove.error && <Warning>{remove.error.message}</Warning>}
          <p className="text-base">
            {rule.sentence} <span className="inline-block first-letter:uppercase">{rule.often}.</span>
          </p>
          <p>{doing(rule, preview)}</p>
          <p className="text-soft">
            What it has done so far stays done. You can undo the deletion from the logbook: the rule comes
            back with its history and its exclusions.
          </p>
        </div>
      </Sheet>
    </>
  );
}

/** What the rule does now, and so what ends. */
function doing(rule: Rule, preview: Preview | undefined): string {
  const posts = preview?.count === 1 ? "1 post" : `${preview?.count ?? 0} posts`;
  const caught = preview
    ? rule.kind === "expire"
      ? `${posts} match it now.`
      : `${posts} may come out by it now.`
    : "";
  if (rule.state === "off") return `It is off, so deleting it changes nothing. ${caught}`.trim();
  if (rule.state === "held") return `It needs your decision and does nothing until then. ${caught}`.trim();
  const next = rule.next ? ` Its next turn would be ${shownPlace(rule.next)}.` : "";
  return `It is on.${next} ${caught}`.trim();
}
