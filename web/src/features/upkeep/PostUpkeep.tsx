import { useState } from "react";
import { Link } from "react-router";
import { Button } from "../../ui/Button";
import { DateField } from "../../ui/DateField";
import { Choice } from "../../ui/Choice";
import { shownDate, shownPlace, siteNow } from "../../ui/siteClock";
import { useSay } from "../../ui/toast";
import { Trouble, Warning } from "../../ui/Trouble";
import { kindWords, type DeedKind } from "../forecast/kinds";
import { PostChoice } from "../rules/PostChoice";
import { usePlanner } from "../session/session";
import { usePostUpkeep, useUpkeepDeeds, type PostUpkeep as Upkeep } from "./upkeep";

const answers: { value: Upkeep["answer"]; name: string }[] = [
  { value: "", name: "as the rule says" },
  { value: "page", name: "the page, with a notice" },
  { value: "redirect", name: "another post" },
  { value: "gone", name: "word that it is gone (410)" },
];

type Props = {
  site: string;
  id: number;
  /** Called before a change, for the version that is kept. */
  before?: () => Promise<number>;
  /** Without what is changed. */
  bare?: boolean;
};

/** Which rules have a post, what becomes of it next, keeping it longer, and what readers get once it is archived. */
export function PostUpkeep({ site, id, before, bare = false }: Props) {
  const upkeep = usePostUpkeep(site, id);
  if (upkeep.isPending) return <p className="text-sm text-soft">Loading…</p>;
  if (upkeep.error) return <Trouble error={upkeep.error} retry={() => void upkeep.refetch()} />;
  const u = upkeep.data;
  const caught = u.rules.filter((r) => r.caught);
  return (
    <div className="space-y-2 text-sm">
      {u.fights.map((f) => (
        <Warning key={f}>{f}</Warning>
      ))}
      <p>
        {u.next ? (
          <>
            <span aria-hidden>{kindWords[u.next.kind as DeedKind].mark}</span> Next:{" "}
            <span className="font-semibold">{kindWords[u.next.kind as DeedKind].word}</span> on{" "}
            {shownPlace(u.next)}
            {u.next.rule ? (
              <>
                {" "}
                by{" "}
                <Link to={`/${site}/rules/${u.next.ruleId}`} className="underline underline-offset-2">
                  {u.next.rule}
                </Link>
              </>
            ) : (
              ", its own date"
            )}
            .
          </>
        ) : (
          <span className="text-soft">Nothing is going to happen to it within a year.</span>
        )}
      </p>
      {caught.length > 0 && (
        <ul aria-label="Rules that match it" className="divide-y divide-line border-y border-line">
          {caught.map((r) => (
            <li key={r.id} className="py-1">
              <Link to={`/${site}/rules/${r.id}`} className="font-medium underline underline-offset-2">
                {r.name}
              </Link>
              {r.state === "off" && <span className="text-soft"> (off)</span>}
              <span className="block text-xs text-soft">{r.reason}</span>
            </li>
          ))}
        </ul>
      )}
      {!bare && (
        <>
          <Keep
            key={u.keptUntil?.date ?? ""}
            site={site}
            id={id}
            upkeep={u}
            {...(before ? { before } : {})}
          />
          <Answer site={site} id={id} upkeep={u} {...(before ? { before } : {})} />
        </>
      )}
    </div>
  );
}

/** Keeps a post from expiring for a while. */
export function Keep({ site, id, upkeep, before }: Props & { upkeep: Upkeep }) {
  const deeds = useUpkeepDeeds(site);
  const say = useSay();
  const [date, setDate] = useState("");
  if (!upkeep.canKeep || upkeep.status !== "published") return null;
  const keep = async (until: string, said: string) => {
    const version = before ? await before() : upkeep.version;
    await deeds.keep.mutateAsync({ id, version, until }).then(() => say.done(said), say.trouble);
  };
  const months = (n: number) => siteNow().toPlainDate().add({ months: n }).toString();
  return (
    <div className="space-y-1.5">
      {upkeep.keptUntil ? (
        <p>
          Kept until <span className="font-semibold">{shownDate(upkeep.keptUntil.date)}</span>.{" "}
          <button
            type="button"
            className="underline underline-offset-2"
            onClick={() => void keep("", "It may expire again.")}
          >
            Let it expire
          </button>
        </p>
      ) : (
        <p className="text-soft">Keep it a while longer: no rule makes it expire before.</p>
      )}
      <div className="flex flex-wrap items-end gap-1.5">
        <Button disabled={deeds.keep.isPending} onClick={() => void keep(months(3), "Kept for 3 months.")}>
          3 months
        </Button>
        <Button disabled={deeds.keep.isPending} onClick={() => void keep(months(12), "Kept for a year.")}>
          1 year
        </Button>
        <div className="w-36">
          <DateField
            label="Keep until"
            hideLabel
            optional
            placeholder="until a date"
            value={date}
            onChange={setDate}
          />
        </div>
        {date !== "" && (
          <Button disabled={deeds.keep.isPending} onClick={() => void keep(date, "Kept longer.")}>
            Keep
          </Button>
        )}
      </div>
    </div>
  );
}

function Answer({ site, id, upkeep, before }: Props & { upkeep: Upkeep }) {
  const deeds = useUpkeepDeeds(site);
  const say = useSay();
  const planner = usePlanner(site);
  const [choosing, setChoosing] = useState(false);
  if (!planner || !["published", "archived"].includes(upkeep.status)) return null;
  const save = async (answer: Upkeep["answer"], leadsTo = 0) => {
    const version = before ? await before() : upkeep.version;
    await deeds.answer
      .mutateAsync({ id, version, answer, leadsTo })
      .then(() => setChoosing(false), say.trouble);
  };
  return (
    <div className="space-y-1.5">
      <p className="text-soft">
        {upkeep.status === "archived" ? "Readers get" : "Once it is archived, readers get"}
      </p>
      <Choice
        label="Readers get"
        value={choosing ? "redirect" : upkeep.answer}
        options={answers}
        onChange={(answer) => (answer === "redirect" ? setChoosing(true) : void save(answer))}
      />
      {(choosing || upkeep.answer === "redirect") && (
        <PostChoice
          site={site}
          label="The post they are sent on to"
          hideLabel
          value={upkeep.leadsTo ? { id: upkeep.leadsTo, title: upkeep.leadsTitle ?? "a post" } : undefined}
          onChange={(to) => void save("redirect", to.id)}
        />
      )}
    </div>
  );
}
