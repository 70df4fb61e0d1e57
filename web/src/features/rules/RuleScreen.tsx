import { useState } from "react";
import { Link, Navigate, useNavigate, useParams } from "react-router";
import { SaveButton } from "../../ui/SaveButton";
import { Button } from "../../ui/Button";
import { TextField } from "../../ui/Field";
import { Trouble, Warning } from "../../ui/Trouble";
import { afterSave, Unsaved } from "../../ui/Unsaved";
import { Waiting } from "../../ui/Waiting";
import { useTell } from "../logbook/useTell";
import { AgainFields } from "./AgainFields";
import { ArmSheet } from "./ArmSheet";
import { CadenceFields } from "./CadenceFields";
import { CatchBeside } from "./CatchBeside";
import { Coming } from "./Coming";
import { ConditionEditor } from "./ConditionEditor";
import { Differences } from "../forecast/Differences";
import { ExpireFields } from "./ExpireFields";
import { useOffered } from "../rhythm/offered";
import { History } from "./History";
import { Line } from "./Line";
import { MessageFields } from "./MessageFields";
import { OutFields } from "./OutFields";
import {
  bodyOf,
  kinds,
  ruleSchema,
  usePreview,
  useRuleDeeds,
  useRules,
  type Kind,
  type Rule,
  type RuleBody,
  type Rules,
} from "./rules";
import { Standing } from "./Standing";
import { MovedOn } from "../../ui/MovedOn";
import { useKept } from "../../ui/useKept";

/** One rule as a form, with its catch beside it. */
export default function RuleScreen() {
  const { site = "", id = "", kind = "" } = useParams();
  const rules = useRules(site);
  if (rules.isPending) return <Waiting what="the rules" />;
  if (rules.error) return <Trouble error={rules.error} retry={() => void rules.refetch()} />;
  if (kind !== "") {
    if (!(kind in kinds)) return <Navigate to={`/${site}/rules`} replace />;
    const saved = rules.data.begin[kind as Kind];
    return saved && <RuleForm key={kind} site={site} all={rules.data} saved={saved} />;
  }
  const rule = rules.data.rules.find((r) => r.id === Number(id));
  if (!rule && rules.isFetching) return <Waiting what="the rule" />;
  if (!rule)
    return (
      <Trouble
        error={new Error("There is no such rule. If it was deleted, you can bring it back from the logbook.")}
      />
    );
  return <RuleForm key={rule.id} site={site} all={rules.data} saved={bodyOf(rule)} rule={rule} />;
}

function RuleForm({
  site,
  all,
  saved,
  rule,
}: {
  site: string;
  all: Rules & { ahead: number };
  saved: RuleBody;
  rule?: Rule;
}) {
  const form = useKept(ruleSchema, saved);
  const { values: body, changed, take, set } = form;
  const offered = useOffered((openings) => set({ cadence: { ...body.cadence, by: "openings", openings } }));
  const [offset, setOffset] = useState(0);
  const [arming, setArming] = useState<"arm" | "run">();
  const id = rule?.id ?? 0;
  const preview = usePreview(site, id, form.valid, offset);
  const deeds = useRuleDeeds(site);
  const tell = useTell(site);
  const navigate = useNavigate();
  const problems = preview.data?.problems ?? [];
  // What is only unfinished is told beside, not in red at the field.
  const problem = (path: string) => form.problem(path, problems);
  const kind = kinds[body.kind];

  const save = async (passed: RuleBody) => {
    const kept = await deeds.save.mutateAsync({ id, body: passed });
    tell(id === 0 ? "Rule saved. It does nothing until you turn it on." : "Rule saved.");
    if (id === 0) void navigate(`/${site}/rules/${kept.id}`, { replace: true, state: afterSave });
    return bodyOf(kept);
  };

  return (
    <main className="mx-auto w-full max-w-7xl px-5 pt-4 pb-12">
      <Unsaved when={changed} what={rule ? `the rule “${rule.name}”` : "the new rule"} />
      <div className="mb-3 flex items-center gap-3">
        <h1 className="min-w-0 font-title text-2xl">{rule ? rule.name : `New ${kind.one}`}</h1>
        <Link
          to={`/${site}/rules`}
          className="text-sm whitespace-nowrap text-soft underline underline-offset-2"
        >
          All rules
        </Link>
        <div className="ml-auto flex gap-2">
          {changed && id !== 0 && <Button onClick={() => take(saved)}>Discard changes</Button>}
          <SaveButton
            name="Save rule"
            quiet={!changed}
            disabled={(!changed && id !== 0) || deeds.save.isPending}
            onSave={() => form.save(save, preview.current ? problems : [])}
          />
        </div>
      </div>
      {form.movedOn && <MovedOn what="this rule" onTake={() => take(saved)} />}
      {offered && changed && (
        <p role="status" className="mb-3 rounded-md bg-open px-3 py-2 text-sm">
          The best hours of Results are filled in as this rule’s openings. Nothing changes until you save it.
        </p>
      )}
      {deeds.save.error && <Warning>{deeds.save.error.message}</Warning>}
      {preview.error && <Warning>{preview.error.message}</Warning>}
      {rule && (
        <Standing
          site={site}
          rule={rule}
          preview={preview.data}
          changed={changed}
          ready={preview.data !== undefined && problems.length === 0}
          onArm={() => setArming("arm")}
          onRun={() => setArming("run")}
        />
      )}
      <div className="grid grid-cols-[minmax(0,1fr)_23rem] gap-8 max-lg:grid-cols-1">
        <div className="space-y-4">
          <Line name="Name">
            <div className="w-96">
              <TextField
                label="Name"
                hideLabel
                value={body.name}
                error={problem("name")}
                placeholder="such as: Notices after ten days"
                onChange={(e) => set({ name: e.target.value })}
              />
            </div>
          </Line>
          <div className="border-t border-line pt-3">
            <ConditionEditor
              condition={body.condition}
              forms={all.forms}
              vocabulary={all.vocabulary}
              problem={(path) => problem(path === "" ? "condition" : `condition.${path}`)}
              onChange={(condition) => {
                setOffset(0);
                set({ condition });
              }}
            />
          </div>
          <div className="space-y-3 border-t border-line pt-3">
            {body.kind === "expire" && (
              <ExpireFields
                site={site}
                rule={body}
                leadsToTitle={rule?.leadsTo === body.leadsTo ? rule?.leadsToTitle : undefined}
                problem={problem}
                set={set}
              />
            )}
            <Line name="When">
              <CadenceFields
                site={site}
                kind={body.kind}
                cadence={body.cadence}
                problem={(f) => problem(`cadence.${f}`)}
                onChange={(cadence) => set({ cadence })}
              />
            </Line>
            {body.kind !== "expire" && (
              <OutFields site={site} id={id} rule={body} problem={problem} set={set} />
            )}
            {body.kind === "republish" && (
              <AgainFields rule={body} channels={all.channels} problem={problem} set={set} />
            )}
            {body.kind === "reshare" && (
              <MessageFields
                site={site}
                id={id}
                rule={body}
                samples={preview.data?.posts ?? []}
                channels={all.channels}
                placeholders={all.vocabulary.placeholders}
                problem={problem}
                set={set}
              />
            )}
          </div>
          {problems.length === 0 && (changed || rule?.state !== "armed") && (
            <Differences site={site} change={{ days: 60, ruleId: id, rule: form.valid }} />
          )}
          {rule && <History site={site} rule={rule} />}
        </div>
        <div>
          {body.kind !== "expire" && preview.data && problems.length === 0 && (
            <Coming
              site={site}
              preview={preview.data}
              clockAhead={all.ahead}
              share={body.kind === "reshare"}
              rule={rule}
              changed={changed}
            />
          )}
          <CatchBeside
            site={site}
            id={id}
            rule={form.valid}
            preview={preview.data}
            offset={offset}
            onTurn={setOffset}
            {...(id !== 0
              ? { onLeaveOut: (post: number) => deeds.exclude.mutate({ id, post, excluded: true }) }
              : {})}
          />
        </div>
      </div>
      {arming && rule && preview.data && (
        <ArmSheet
          site={site}
          rule={rule}
          preview={preview.data}
          run={arming === "run"}
          onClose={() => setArming(undefined)}
        />
      )}
    </main>
  );
}
