import { memo, useMemo, useState } from "react";
import { Link } from "react-router";
import { Button } from "../../ui/Button";
import { Trouble, Warning } from "../../ui/Trouble";
import { Unsaved } from "../../ui/Unsaved";
import { useTell } from "../logbook/useTell";
import { ArmSheet } from "../rules/ArmSheet";
import { usePreview, useRuleDeeds, useRules } from "../rules/rules";
import { usePlanner } from "../session/session";
import { withAge } from "./line";
import { spanWords, type Unit } from "./scale";
import type { MovedLine } from "./Thresholds";
import type { RuleLine } from "./upkeep";

type Props = { site: string; line: RuleLine; moved: MovedLine; onDone: () => void };

/** Beside the map: what a rule would catch with its line where it was put, and saving that. */
export function LinePanel({ site, line, moved, onDone }: Props) {
  const planner = usePlanner(site);
  const rules = useRules(site);
  const deeds = useRuleDeeds(site);
  const tell = useTell(site);
  const [arming, setArming] = useState(false);
  const unit = line.age!.unit as Unit;
  const changed = moved.n !== line.age!.n;
  const body = useMemo(() => withAge(line, moved.n), [line, moved.n]);
  const preview = usePreview(site, line.id, body, 0);
  const rule = rules.data?.rules.find((r) => r.id === line.id);
  const verb = line.kind === "expire" ? "catches" : "may bring out";
  const save = () =>
    deeds.save
      .mutateAsync({ id: line.id, body: { ...body, version: rule?.version ?? body.version ?? 0 } })
      .then(
        (kept) => {
          tell(
            kept.state === "off" && line.state !== "off"
              ? "Rule saved. It is off until you turn it on again."
              : "Rule saved.",
          );
          if (kept.state === "off") setArming(true);
          else onDone();
        },
        () => undefined,
      );
  return (
    <section aria-label="The line" className="space-y-2">
      <Unsaved when={changed && !arming} what={`the rule “${line.name}”`} />
      <h2 className="text-base font-semibold">
        <Link to={`/${site}/rules/${line.id}`} className="underline underline-offset-2">
          {line.name}
        </Link>
      </h2>
      <p className="text-sm text-soft">
        {line.over ? "From" : "Up to"}{" "}
        <span className="font-semibold text-ink">{spanWords(moved.n, unit)}</span>
        {changed && `, now ${spanWords(line.age!.n, unit)}`}
      </p>
      {preview.error && <Trouble error={preview.error} />}
      {deeds.save.error && <Warning>{deeds.save.error.message}</Warning>}
      {preview.data?.problems.map((p) => (
        <Warning key={p.path}>{p.message}</Warning>
      ))}
      <p role="status" className="text-sm">
        {preview.data && preview.current ? (
          <>
            It {verb} <span className="font-semibold">{preview.data.count}</span> of {preview.data.published}{" "}
            posts
            {changed &&
              preview.data.count !== line.count &&
              `, ${difference(preview.data.count - line.count)}`}
            .
          </>
        ) : (
          "Checking posts…"
        )}
      </p>
      {preview.data?.all && <Warning>It would match every published post. Move the line further.</Warning>}
      <div className="flex flex-wrap gap-2">
        {changed && planner && (
          <Button
            look="main"
            disabled={deeds.save.isPending || !preview.current || (preview.data?.problems.length ?? 0) > 0}
            onClick={() => void save()}
          >
            Save {spanWords(moved.n, unit)}
          </Button>
        )}
        {!changed && rule?.state === "off" && planner && (
          <Button look="main" disabled={!preview.current} onClick={() => setArming(true)}>
            Turn on…
          </Button>
        )}
        <Button onClick={onDone}>{changed ? "Put it back" : "Close"}</Button>
      </div>
      <Caught site={site} posts={preview.data?.posts ?? none} />
      {(preview.data?.count ?? 0) > 12 && (
        <p className="text-xs text-soft">and {(preview.data?.count ?? 0) - 12} more.</p>
      )}
      {arming && rule?.state === "off" && preview.data && preview.current && (
        <ArmSheet
          site={site}
          rule={rule}
          preview={preview.data}
          run={false}
          onClose={() => {
            setArming(false);
            onDone();
          }}
        />
      )}
    </section>
  );
}

type CaughtPost = { id: number; title: string; reason: string };

const none: CaughtPost[] = [];

/** The first of the posts, which stay while the line is moved. */
const Caught = memo(function Caught({ site, posts }: { site: string; posts: CaughtPost[] }) {
  return (
    <ul className="divide-y divide-line border-y border-line empty:hidden">
      {posts.slice(0, 12).map((p) => (
        <li key={p.id} className="py-1.5">
          <Link to={`/${site}/write/${p.id}`} className="block truncate text-sm font-medium">
            {p.title}
          </Link>
          <span className="block text-xs text-soft">{p.reason}</span>
        </li>
      ))}
    </ul>
  );
});

const difference = (n: number) => (n > 0 ? `${n} more than now` : `${-n} fewer than now`);
