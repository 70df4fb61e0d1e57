import { useState } from "react";
import { Refusal } from "../../api/client";
import { Button } from "../../ui/Button";
import { NumberField } from "../../ui/NumberField";
import { Sheet } from "../../ui/Sheet";
import { useSay } from "../../ui/toast";
import { Trouble, Warning } from "../../ui/Trouble";
import { useTell } from "../logbook/useTell";
import { ActionFields, type Action } from "../rules/ActionFields";
import { verbs } from "../rules/ArmSheet";
import { ConditionEditor } from "../rules/ConditionEditor";
import { useRules, type Condition } from "../rules/rules";
import { useOncePreview, useUpkeepDeeds, type Once } from "./upkeep";

type Props = {
  site: string;
  /** The posts that were chosen; undefined: those that match a condition. */
  ids?: number[];
  begin?: string;
  onClose: () => void;
  onDone?: () => void;
};

/** Does an action once, to posts that were chosen or that match, after showing exactly to which. */
export function OnceSheet({ site, ids, begin = "archive", onClose, onDone }: Props) {
  const [action, setAction] = useState<Action>({ action: begin });
  const [condition, setCondition] = useState<Condition>({ group: "all", parts: [] });
  const [confirm, setConfirm] = useState(0);
  const rules = useRules(site);
  const deeds = useUpkeepDeeds(site);
  const tell = useTell(site);
  const say = useSay();
  const what: Partial<Action> = { ...action };
  delete what.leadsToTitle;
  const [body, setBody] = useState<Once>();
  const wanted = { ...what, ...(ids ? { ids } : { condition }) } as Once;
  // The same question keeps its identity, so that it is not asked again at each drawing.
  if (JSON.stringify(wanted) !== JSON.stringify(body)) setBody(wanted);
  const once = body ?? wanted;
  const preview = useOncePreview(site, once);
  const [later, setLater] = useState<NonNullable<typeof preview.data>>();
  const seen = preview.current ? (later ?? preview.data) : undefined;
  const problems = seen?.problems ?? [];
  const unset = !ids && (condition.parts ?? []).length === 0;
  const problem = (field: string) =>
    action.action === "tag" && !action.tag ? undefined : problems.find((p) => p.path === field)?.message;
  const verb = verbs[action.action]!;
  const asks = seen && (seen.wide || seen.forGood) && !seen.all;
  const go = () => {
    if (!seen) return;
    deeds.once.mutateAsync({ ...once, token: seen.token, confirm }).then(
      ({ took }) => {
        const said = `${took === 1 ? "1 post was" : `${took} posts were`} ${verb}.`;
        if (seen.forGood) say.done(said);
        else tell(said);
        onDone?.();
        onClose();
      },
      (error: unknown) => {
        if (error instanceof Refusal && error.problem.catch) setLater(error.problem.catch);
      },
    );
  };
  const ready = seen && !unset && problems.length === 0 && seen.count > 0 && !seen.all;
  return (
    <Sheet
      open
      wide={!ids}
      onClose={onClose}
      title={
        ids ? `Do something with ${ids.length === 1 ? "1 post" : `${ids.length} posts`}` : "Do something once"
      }
      actions={
        <>
          <Button onClick={onClose}>Cancel</Button>
          <Button
            look="main"
            disabled={!ready || deeds.once.isPending || Boolean(asks && confirm !== seen.count)}
            onClick={go}
          >
            {label(action.action, seen?.count ?? 0)}
          </Button>
        </>
      }
    >
      <div className="space-y-3">
        {deeds.once.error && <Warning>{deeds.once.error.message}</Warning>}
        {preview.error && <Trouble error={preview.error} />}
        {!ids && rules.data && (
          <ConditionEditor
            condition={condition}
            forms={rules.data.forms}
            vocabulary={rules.data.vocabulary}
            problem={(path) =>
              unset
                ? undefined
                : problems.find((p) => p.path === (path ? `condition.${path}` : "condition"))?.message
            }
            onChange={setCondition}
          />
        )}
        <ActionFields
          site={site}
          action={action}
          problem={problem}
          set={(change) => {
            setLater(undefined);
            setAction({ ...action, ...change });
          }}
        />
        <div className="border-t border-line pt-3">
          <p role="status" className="text-sm">
            {unset ? (
              "Say which posts first."
            ) : problems.length > 0 ? (
              problems[0]!.message
            ) : !seen ? (
              "Checking posts…"
            ) : seen.count === 0 ? (
              ids ? (
                "There is nothing to do to these posts."
              ) : (
                "No posts match."
              )
            ) : (
              <>
                <span className="font-semibold">{seen.count === 1 ? "1 post" : `${seen.count} posts`}</span>{" "}
                will be {verb}
                {ids &&
                  seen.count < ids.length &&
                  `; nothing changes for the other ${ids.length - seen.count}`}
                .
              </>
            )}
          </p>
          {seen?.all && <Warning>That is every published post of the blog. Narrow it down.</Warning>}
          {asks && (
            <div className="my-2 flex items-center gap-3">
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
          <ul className="mt-2 divide-y divide-line border-y border-line empty:hidden">
            {(problems.length > 0 || unset ? [] : (seen?.posts ?? [])).map((p) => (
              <li key={p.id} className="py-1.5">
                <span className="block text-sm font-medium">{p.title || "Untitled"}</span>
                {!ids && <span className="block text-xs text-soft">{p.reason}</span>}
              </li>
            ))}
          </ul>
          {seen && seen.count > seen.posts.length && seen.posts.length > 0 && (
            <p className="mt-1 text-xs text-soft">and {seen.count - seen.posts.length} more.</p>
          )}
        </div>
      </div>
    </Sheet>
  );
}

function label(action: string, n: number): string {
  const posts = n === 1 ? "1 post" : `${n} posts`;
  switch (action) {
    case "draft":
      return `Turn ${posts} into drafts`;
    case "bin":
      return `Move ${posts} to the bin`;
    case "category":
      return `Move ${posts}`;
    case "tag":
      return `Tag ${posts}`;
    case "notice":
      return `Put up ${n === 1 ? "1 notice" : `${n} notices`}`;
    case "comments":
      return `Close comments on ${posts}`;
    case "delete":
      return `Delete ${posts} for good`;
  }
  return `Archive ${posts}`;
}
