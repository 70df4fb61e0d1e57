import { useState } from "react";
import { Refusal } from "../../api/client";
import { Button } from "../../ui/Button";
import { DateField } from "../../ui/DateField";
import { Sheet } from "../../ui/Sheet";
import { shownMoment } from "../../ui/siteClock";
import { TextArea } from "../../ui/TextArea";
import { TimeField } from "../../ui/TimeField";
import { Warning } from "../../ui/Trouble";
import { useOutingDeeds } from "../channels/channels";
import { instantOf, typedOf } from "../channels/moment";
import { SideBySide } from "../channels/SideBySide";
import { useTell } from "../logbook/useTell";
import { PostChoice } from "./PostChoice";
import type { Preview } from "./rules";

type Coming = Preview["coming"][number];

type Props = {
  site: string;
  rule: { id: number; name: string };
  /** All messages of one turn that have not been planned yet, or one that has. */
  says: Coming[];
  onClose: () => void;
};

type Edited = {
  channelId: number;
  channel: string;
  postId: number;
  title: string;
  date: string;
  time: string;
  text: string;
};

/** The messages of a coming turn of a rule: moved, changed, given to another post. The rule goes on around it. */
export function TurnSheet({ site, rule, says, onClose }: Props) {
  const [edited, setEdited] = useState<Edited[]>(() =>
    says.map((s) => ({
      channelId: s.channelId ?? 0,
      channel: s.channel ?? "",
      postId: s.postId,
      title: s.title,
      text: s.own ?? "",
      ...typedOf(s.at),
    })),
  );
  const { take, save } = useOutingDeeds(site);
  const tell = useTell(site);
  const trouble = take.error ?? save.error;
  const refusal = trouble instanceof Refusal ? trouble : undefined;
  const put = (i: number, change: Partial<Edited>) =>
    setEdited(edited.map((e, j) => (j === i ? { ...e, ...change } : e)));
  const ready = edited.every((e) => instantOf(e) && e.text.trim() !== "");
  const planned = says[0]?.outingId ? says[0] : undefined;

  function go() {
    const outings = edited.map((e) => ({
      postId: e.postId,
      channelId: e.channelId,
      at: instantOf(e) ?? "",
      text: e.text,
    }));
    const doing: Promise<unknown> = planned
      ? save.mutateAsync({ ...outings[0]!, id: planned.outingId!, version: planned.version ?? 0 })
      : take.mutateAsync({ rule: rule.id, turn: says[0]!.turn, outings });
    doing.then(
      () => {
        tell("Changed. The rule goes on around it.");
        onClose();
      },
      () => undefined,
    );
  }

  return (
    <Sheet
      open
      wide
      onClose={onClose}
      title={`Change what goes out on ${shownMoment(says[0]!.at)}`}
      actions={
        <>
          <Button onClick={onClose}>Cancel</Button>
          <Button look="main" disabled={!ready || take.isPending || save.isPending} onClick={go}>
            Save
          </Button>
        </>
      }
    >
      {trouble && (
        <div className="mb-3">
          <Warning>{refusal?.problem.errors?.[0]?.message ?? trouble.message}</Warning>
        </div>
      )}
      <div className="space-y-5">
        {edited.map((e, i) => (
          <fieldset key={says[i]!.channelId} className="space-y-2">
            <legend className="mb-1 text-base font-semibold">{e.channel}</legend>
            <div className="flex flex-wrap items-start gap-3">
              <div className="w-44">
                <DateField label="Date" value={e.date} onChange={(date) => put(i, { date })} />
              </div>
              <TimeField label="Time" value={e.time} onChange={(time) => put(i, { time })} />
              <div className="min-w-64 flex-1">
                <PostChoice
                  site={site}
                  value={{ id: e.postId, title: e.title }}
                  onChange={(p) => put(i, { postId: p.id, title: p.title })}
                />
              </div>
            </div>
            <TextArea
              label={`Text on ${e.channel}`}
              hideLabel
              rows={2}
              value={e.text}
              onChange={(event) => put(i, { text: event.target.value })}
            />
            <SideBySide
              site={site}
              draft={{
                postId: e.postId,
                text: e.text,
                channels: [e.channelId],
                ruleId: rule.id,
                asRule: true,
              }}
            />
          </fieldset>
        ))}
      </div>
    </Sheet>
  );
}
