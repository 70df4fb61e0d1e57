import { ExternalLink, Plus } from "lucide-react";
import type { ReactNode } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { Button } from "../../ui/Button";
import { shownPlace } from "../../ui/siteClock";
import { Trouble } from "../../ui/Trouble";
import { Waiting } from "../../ui/Waiting";
import { kinds, useRules, type Kind, type Rule, type Rules } from "./rules";
import { Countdown } from "./Coming";
import { SortableRules } from "./SortableRules";
import { StateWord } from "./StateWord";

/** All rules of a site, those that ask for an editor first seen. */
export default function RulesScreen() {
  const { site = "" } = useParams();
  const rules = useRules(site);
  if (rules.isPending) return <Waiting what="the rules" />;
  if (rules.error) return <Trouble error={rules.error} retry={() => void rules.refetch()} />;
  return (
    <main className="mx-auto w-full max-w-6xl px-5 pt-4 pb-10">
      <div className="mb-4 flex flex-wrap items-baseline gap-x-3">
        <h1 className="font-title text-2xl">Rules</h1>
        <p className="text-sm text-soft">
          Rules act on published posts by themselves. Those due at the same moment run in this order.
        </p>
      </div>
      {(Object.keys(kinds) as Kind[]).map((kind) => (
        <KindOfRules key={kind} site={site} kind={kind} rules={rules.data} />
      ))}
    </main>
  );
}

function KindOfRules({ site, kind, rules }: { site: string; kind: Kind; rules: Rules & { ahead: number } }) {
  const navigate = useNavigate();
  const mine = rules.rules.filter((r) => r.kind === kind);
  const { name, one, what, none } = kinds[kind];
  const noChannel = kind === "reshare" && rules.channels.length === 0;
  return (
    <section aria-labelledby={kind} className="mb-7">
      <div className="mb-1.5 flex flex-wrap items-center gap-x-3 gap-y-1">
        <h2 id={kind} className="text-base font-semibold">
          {name}
        </h2>
        <p className="text-sm text-soft">{what}</p>
        {kind === "reshare" &&
          rules.channels.map((c) => (
            <a
              key={c.id}
              href={c.wall}
              target="_blank"
              rel="noreferrer"
              className="inline-flex items-center gap-1 text-sm underline underline-offset-2"
            >
              {c.name}’s wall <ExternalLink size={12} aria-label="opens in a new tab" />
            </a>
          ))}
        <Button
          className="ml-auto"
          icon={<Plus size={14} />}
          disabled={noChannel}
          onClick={() => void navigate(`/${site}/rules/new/${kind}`)}
        >
          New {one}
        </Button>
      </div>
      {mine.length === 0 ? (
        <p className="rounded-md border border-dashed border-strong px-3 py-4 text-sm text-soft">
          {noChannel ? "The blog has no channel yet, so nothing can be shared." : none}
        </p>
      ) : (
        <SortableRules site={site} kind={kind} rules={mine}>
          {(rule, handle) => <RuleRow site={site} rule={rule} clockAhead={rules.ahead} handle={handle} />}
        </SortableRules>
      )}
    </section>
  );
}

function RuleRow({
  site,
  rule,
  clockAhead,
  handle,
}: {
  site: string;
  rule: Rule;
  clockAhead: number;
  handle: ReactNode;
}) {
  return (
    <div className="relative grid grid-cols-[1.5rem_8.5rem_minmax(0,1fr)_17rem] items-center gap-3 px-3 py-2 max-md:grid-cols-[1.5rem_minmax(0,1fr)] max-md:gap-1 max-md:*:col-start-2 max-md:*:first:col-start-1 max-md:*:first:row-start-1 hover:bg-ground">
      <span className="z-10">{handle}</span>
      <StateWord state={rule.state} />
      <div className="min-w-0">
        <Link
          to={`/${site}/rules/${rule.id}`}
          className="font-medium after:absolute after:inset-0 after:content-['']"
        >
          {rule.name}
        </Link>
        <p className="text-sm text-soft md:truncate">
          {rule.sentence}{" "}
          <span className="text-faint first-letter:uppercase inline-block">{rule.often}.</span>
        </p>
        {rule.state === "held" && <p className="text-sm text-madder">{rule.heldWhy}</p>}
      </div>
      <div className="text-sm">
        {rule.next ? (
          <p>
            Next <span className="font-semibold">{shownPlace(rule.next)}</span>{" "}
            <Countdown at={rule.next.at} clockAhead={clockAhead} />
          </p>
        ) : (
          <p className="text-faint">No next run</p>
        )}
        <p className="truncate text-soft">
          {rule.last
            ? `Last ${shownPlace(rule.last)}: ${rule.last.took === 1 ? "1 post" : `${rule.last.took} posts`}`
            : "Has not run yet"}
        </p>
      </div>
    </div>
  );
}
