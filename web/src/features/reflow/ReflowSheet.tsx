import { lazy, Suspense, useMemo, useState } from "react";
import { Refusal } from "../../api/client";
import { Button } from "../../ui/Button";
import { Segments } from "../../ui/Segments";
import { Sheet } from "../../ui/Sheet";
import { Warning } from "../../ui/Trouble";
import { Unproven } from "../../ui/Unproven";
import { same } from "../../ui/same";
import { isDate, isTime } from "../../ui/typed";
import { showWrong, useValid } from "../../ui/useFormOf";
import { useSettled } from "../../ui/useSettled";
import { useTell } from "../logbook/useTell";
import { changedBy, kinds, useApply, useNear, useProposal, type ByHand, type Wish } from "../plan/reflow";
import { Left, StepsTable } from "./StepsTable";
import { wishSchema } from "./schema";
import { WishForm } from "./WishForm";

const ProposalTape = lazy(() => import("./ProposalTape").then((m) => ({ default: m.ProposalTape })));

const looks = [
  { value: "table", name: "As a table" },
  { value: "tape", name: "On the tape" },
] as const;

type Look = (typeof looks)[number]["value"];

type Props = {
  site: string;
  /** What is wished unless the editor says otherwise. It may change while the form is open, as the plan does. */
  start: Wish;
  /** The posts that may be chosen from: their ids and titles, in their order. */
  choices: { id: number; title: string }[];
  onClose: () => void;
};

/** Changes many places at once: first what is wished, below it what that would come to, then the doing. */
export function ReflowSheet({ site, start, choices, onClose }: Props) {
  const [begun, setBegun] = useState(start);
  const [changes, setChanges] = useState<Partial<Wish>>({});
  const [adjusted, setAdjusted] = useState<ByHand[]>([]);
  const wish = useMemo(() => ({ ...begun, ...changes }), [begun, changes]);
  const { valid, invalid } = useValid(wishSchema, wish);
  const settled = useSettled(valid, 300);
  const unread = invalid || !adjusted.every((a) => isDate(a.date) && isTime(a.time));
  const ready = settled.do !== "room" && settled.do !== "place" ? true : (settled.posts?.length ?? 0) > 0;
  const proposal = useProposal(site, ready ? settled : undefined);
  const apply = useApply(site);
  // Times that were given by hand are for what was shown, and what is being done, or is done, stays as it was sent.
  const held = adjusted.length > 0 || apply.isPending || apply.isSuccess;
  if (!held && !same(begun, start)) setBegun(start);
  const refused = apply.variables?.wish === wish ? changedBy(apply.error) : undefined;
  const near = useNear(site, settled, unread ? [] : adjusted);
  const [look, setLook] = useState<Look>("table");
  const tape = look === "tape";
  const [chosen, setChosen] = useState<number>();
  const tell = useTell(site);
  const { title, done } = kinds[wish.do];
  const shown = refused ?? (ready ? proposal.data : undefined);
  const working = proposal.isFetching || settled !== valid;
  const refusal = proposal.error instanceof Refusal ? proposal.error : undefined;
  const n = shown?.steps.length ?? 0;
  const onTape = tape && n > 0;
  const count = n === 1 ? "1 post" : `${n} posts`;

  function change(next: Partial<Wish>) {
    apply.reset();
    setAdjusted([]);
    setChanges({ ...changes, ...next });
  }
  function go() {
    if (!shown) return;
    if (unread) return showWrong();
    apply.mutate(
      { wish, shown, adjusted },
      {
        onSuccess: () => {
          tell(`${count} ${done}.`);
          onClose();
        },
      },
    );
  }

  return (
    <Sheet
      open
      onClose={onClose}
      title={title}
      wide={onTape}
      actions={
        <>
          <p role="status" className="mr-auto self-center text-sm text-soft">
            {working ? "Working it out…" : ""}
          </p>
          <Button onClick={onClose}>Cancel</Button>
          <Button
            look="main"
            onClick={go}
            disabled={n === 0 || working || apply.isPending || !!proposal.error}
          >
            {wish.do === "place" ? `Schedule ${count}` : `Move ${count}`}
          </Button>
        </>
      }
    >
      <WishForm site={site} wish={wish} choices={choices} refusal={refusal} onChange={change} />
      {proposal.error && !refusal?.problem.errors && <Warning>{proposal.error.message}</Warning>}
      {refusal?.problem.errors && <Warning>{refusal.message}</Warning>}
      {apply.error && <Warning>{apply.error.message}</Warning>}
      {!proposal.error && shown && (
        <div aria-busy={working}>
          {n === 0 && (
            <p className="py-3 text-sm text-soft">
              {wish.do === "place" ? "This schedules no drafts." : "This moves nothing."}
            </p>
          )}
          {n > 0 && (
            <div className="mb-3">
              <Segments label="How the proposal is shown" value={look} options={looks} onChange={setLook} />
            </div>
          )}
          {onTape && (
            <Suspense fallback={null}>
              <ProposalTape
                site={site}
                shown={shown}
                adjusted={adjusted}
                chosen={chosen}
                onChoose={(id) => setChosen(id === chosen ? undefined : id)}
              />
            </Suspense>
          )}
          <div
            className={
              onTape ? "sticky -bottom-4 z-20 -mx-5 border-t border-line bg-sheet px-5 py-2 text-sm" : ""
            }
          >
            {onTape && chosen === undefined ? (
              <p className="text-soft">Choose a post on the tape for its reason.</p>
            ) : (
              <StepsTable
                steps={onTape ? shown.steps.filter((s) => s.id === chosen) : shown.steps}
                adjusted={adjusted}
                near={near}
                onAdjust={
                  wish.do === "place" && !working
                    ? (line, id) =>
                        setAdjusted([...adjusted.filter((a) => a.id !== id), ...(line ? [line] : [])])
                    : undefined
                }
              />
            )}
          </div>
          {shown.unproven && <Unproven />}
          <Left left={shown.left} />
        </div>
      )}
      <p className="mt-4 text-xs text-faint">
        Everything is done, or nothing is: if the plan changes first, you are shown the new one. One Undo
        takes it all back.
      </p>
    </Sheet>
  );
}
