import { ChevronLeft, ChevronRight } from "lucide-react";
import { useMemo, useState } from "react";
import { IconButton } from "../../ui/Button";
import { addDays, daysBetween, minutesOf } from "../../ui/civil";
import { shownDate } from "../../ui/siteClock";
import { Trouble } from "../../ui/Trouble";
import { useAlmanac, type AlmanacDay } from "../plan/almanac";
import { legible } from "../plan/layout";
import { looks, marksOf, type Marked } from "../plan/marked";
import { TapeHead } from "../tape/Tape";
import { TapeRow } from "../tape/TapeRow";
import type { ByHand, Reflow, Step } from "../plan/reflow";

type Props = {
  site: string;
  shown: Reflow;
  adjusted: ByHand[];
  chosen: number | undefined;
  onChoose: (id: number) => void;
};

/** How many days are drawn at once. */
const page = 28;

/** Where a step leads, with the time it got by hand. */
function goalOf(step: Step, adjusted: ByHand[]) {
  const byHand = adjusted.find((a) => a.id === step.id);
  return byHand ? { date: byHand.date, minute: minutesOf(byHand.time) } : step.to;
}

/** The proposal as the tape would be: what stays, what comes, and where what moves has been. */
export function ProposalTape({ site, shown, adjusted, chosen, onChoose }: Props) {
  const [at, setAt] = useState(0);
  const dates = useMemo(
    () =>
      shown.steps
        .flatMap((s) => [s.from?.date, goalOf(s, adjusted)?.date])
        .filter((d): d is string => d !== undefined)
        .sort(),
    [shown, adjusted],
  );
  const first = dates[0];
  const last = dates.at(-1);
  const all = first && last ? daysBetween(first, last) + 1 : 0;
  const pages = Math.max(1, Math.ceil(all / page));
  const here = Math.min(at, pages - 1);
  const from = first && addDays(first, here * page);
  const days = Math.max(1, Math.min(page, all - here * page));
  const almanac = useAlmanac(site, from, days);
  if (!from) return null;
  if (almanac.error) return <Trouble error={almanac.error} retry={() => void almanac.refetch()} />;
  const plan = almanac.data;
  const until = addDays(from, days - 1);
  const drawn = plan?.days[0]?.date === from;
  return (
    <section aria-label="The proposal on the tape">
      <div className="mb-1 flex min-h-8 items-center gap-2 text-sm">
        <p className="font-title text-lg">
          {shownDate(from)} <span className="text-soft">to {shownDate(until)}</span>
        </p>
        {pages > 1 && (
          <span className="flex items-center">
            <IconButton label="Earlier days" disabled={here === 0} onClick={() => setAt(here - 1)}>
              <ChevronLeft size={16} />
            </IconButton>
            <span className="text-xs text-soft">
              {here + 1} of {pages}
            </span>
            <IconButton label="Later days" disabled={here === pages - 1} onClick={() => setAt(here + 1)}>
              <ChevronRight size={16} />
            </IconButton>
          </span>
        )}
        <Legend leaving={shown.steps.some((s) => s.from)} />
      </div>
      <div className="rounded-md border border-line aria-busy:renewed" aria-busy={!drawn}>
        <TapeHead />
        <ol>
          {plan?.days.map((day) => (
            <TapeRow
              key={day.date}
              day={day}
              own={proposed(day, shown.steps, adjusted)}
              now={day.date === plan.now.date ? plan.now : undefined}
              deeds={none.deeds}
              chosen={chosen}
              chosenMark={undefined}
              picked={none.picked}
              lacks={none.lacks}
              legible={legible}
              zoomed={false}
              onPost={onChoose}
              onMark={none.onMark}
            />
          ))}
        </ol>
      </div>
    </section>
  );
}

const none = {
  deeds: [],
  picked: new Set<number>(),
  lacks: new Map<number, string>(),
  onMark: () => undefined,
};

function Legend({ leaving }: { leaving: boolean }) {
  return (
    <ul aria-label="What the marks mean" className="ml-auto flex gap-4 text-xs">
      {(["scheduled", "proposed", ...(leaving ? (["leaving"] as const) : [])] as const).map((kind) => (
        <li key={kind} className={`flex h-4 items-stretch gap-1.5 ${looks[kind].text}`}>
          <span aria-hidden className={looks[kind].bar} />
          {kind === "scheduled" ? "stays" : kind === "proposed" ? "comes here" : looks.leaving.word}
        </li>
      ))}
    </ul>
  );
}

/** What would stand on a day, and what would have left it. */
function proposed(day: AlmanacDay, steps: Step[], adjusted: ByHand[]): Marked[] {
  const moving = new Set(steps.map((s) => s.id));
  const stays = marksOf({ ...day, ghosts: [] }).filter((m) => !moving.has(m.id));
  const ways = steps.flatMap((s): Marked[] => {
    const to = goalOf(s, adjusted);
    const mark = { id: s.id, title: s.title };
    return [
      ...(s.from?.date === day.date ? [{ ...mark, minute: s.from.minute, kind: "leaving" as const }] : []),
      ...(to?.date === day.date ? [{ ...mark, minute: to.minute, kind: "proposed" as const }] : []),
    ];
  });
  return [...stays, ...ways].sort((a, b) => a.minute - b.minute);
}
