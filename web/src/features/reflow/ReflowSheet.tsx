import { useState } from "react";
import { Refusal } from "../../api/client";
import { Button } from "../../ui/Button";
import { Sheet } from "../../ui/Sheet";
import { Warning } from "../../ui/Trouble";
import { useSettled } from "../../ui/useSettled";
import { useTell } from "../logbook/useTell";
import { changedBy, kinds, useApply, useProposal, type ByHand, type Wish } from "./reflow";
import { StepsTable } from "./StepsTable";
import { WishForm } from "./WishForm";

type Props = {
  site: string;
  /** What the form begins with. */
  start: Wish;
  /** The posts that may be chosen from: their ids and titles, in their order. */
  choices: { id: number; title: string }[];
  onClose: () => void;
};

/** Changes many places at once: first what is wished, below it what that would come to, then the doing. */
export function ReflowSheet({ site, start, choices, onClose }: Props) {
  const [wish, setWish] = useState(start);
  const [adjusted, setAdjusted] = useState<ByHand[]>([]);
  const settled = useSettled(wish, 300);
  const ready = settled.do !== "room" && settled.do !== "place" ? true : (settled.posts?.length ?? 0) > 0;
  const proposal = useProposal(site, ready ? settled : undefined);
  const apply = useApply(site);
  const tell = useTell(site);
  const { title, done } = kinds[wish.do];
  const shown = changedBy(apply.error) ?? (ready ? proposal.data : undefined);
  const working = proposal.isFetching || settled !== wish;
  const refusal = proposal.error instanceof Refusal ? proposal.error : undefined;
  const n = shown?.steps.length ?? 0;
  const count = n === 1 ? "1 post" : `${n} posts`;

  function change(next: Partial<Wish>) {
    apply.reset();
    setAdjusted([]);
    setWish({ ...wish, ...next });
  }
  function go() {
    if (!shown) return;
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
      actions={
        <>
          <p role="status" className="mr-auto self-center text-sm text-soft">
            {working ? "Working it out…" : ""}
          </p>
          <Button onClick={onClose}>Leave as it is</Button>
          <Button
            look="main"
            onClick={go}
            disabled={n === 0 || working || apply.isPending || !!proposal.error}
          >
            {wish.do === "place" ? `Commit ${count}` : `Move ${count}`}
          </Button>
        </>
      }
    >
      <WishForm wish={wish} choices={choices} refusal={refusal} onChange={change} />
      {proposal.error && !refusal?.problem.errors && <Warning>{proposal.error.message}</Warning>}
      {refusal?.problem.errors && <Warning>{refusal.message}</Warning>}
      {apply.error && <Warning>{apply.error.message}</Warning>}
      {!proposal.error && shown && (
        <div aria-busy={working}>
          {n === 0 && (
            <p className="py-3 text-sm text-soft">
              {wish.do === "place" ? "No draft gets a time by this." : "Nothing moves by this."}
            </p>
          )}
          <StepsTable
            shown={shown}
            adjusted={adjusted}
            onAdjust={
              wish.do === "place" && !working
                ? (line, id) => setAdjusted([...adjusted.filter((a) => a.id !== id), ...(line ? [line] : [])])
                : undefined
            }
          />
        </div>
      )}
      <p className="mt-4 text-xs text-faint">
        Everything is done, or nothing is: if the plan changes first, you are shown the new one. One Undo
        takes it all back.
      </p>
    </Sheet>
  );
}
