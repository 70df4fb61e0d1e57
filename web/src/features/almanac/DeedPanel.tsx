import { Undo2 } from "lucide-react";
import { use, useState } from "react";
import { Link } from "react-router";
import { Button } from "../../ui/Button";
import { clock, hhmm, minutesOf } from "../../ui/civil";
import { DateField } from "../../ui/DateField";
import { TimeField } from "../../ui/TimeField";
import { isDate, isTime } from "../../ui/typed";
import { useSay } from "../../ui/toast";
import { kindWords } from "../forecast/kinds";
import { useUndo } from "../logbook/logbook";
import { isMovable } from "../plan/markDeeds";
import type { DeedMark } from "../plan/marks";
import { MarkHandContext } from "../tape/markHand";
import { Panel } from "./Panel";
import { shownDate } from "../../ui/siteClock";

const states = { done: "Done", coming: "To come", waiting: "Being sent", failed: "Could not be sent" };

/** One deed of a rule: what, when and why, and what can be done about it. */
export function DeedPanel({ site, mark, onClose }: { site: string; mark: DeedMark; onClose: () => void }) {
  const undo = useUndo(site);
  const say = useSay();
  const kind = kindWords[mark.kind];
  const hand = use(MarkHandContext);
  const [when, setWhen] = useState({ date: mark.date, time: hhmm(mark.minute) });
  return (
    <Panel title={`${states[mark.state]}: ${kind.word}`} onClose={onClose}>
      <div>
        <p className="text-sm text-soft">
          {shownDate(mark.date)}, <span className="font-semibold text-ink">{clock(mark.minute)}</span>
          {mark.channel && ` · ${mark.channel}`}
        </p>
        <p className="font-title text-xl">{mark.title || mark.rule}</p>
      </div>
      <p className="text-sm">{mark.reason}</p>
      {mark.text && (
        <p className="rounded-md border border-line bg-ground px-3 py-2 text-sm wrap-anywhere whitespace-pre-wrap">
          {mark.text}
        </p>
      )}
      <div className="flex flex-wrap gap-x-4 gap-y-1 text-sm">
        {mark.postId ? (
          <Link to={`/${site}/write/${mark.postId}`} className="underline underline-offset-2">
            Open the post
          </Link>
        ) : null}
        {mark.ruleId ? (
          <Link to={`/${site}/rules/${mark.ruleId}`} className="underline underline-offset-2">
            Open the rule
          </Link>
        ) : null}
        {mark.editId ? (
          <Link to={`/${site}/edits/${mark.editId}`} className="underline underline-offset-2">
            Open the edit
          </Link>
        ) : null}
        {mark.url && (
          <a href={mark.url} target="_blank" rel="noreferrer" className="underline underline-offset-2">
            Read it on {mark.channel}
          </a>
        )}
      </div>
      {hand && isMovable(mark) && (
        <div className="flex flex-wrap items-end gap-2">
          <div className="w-36">
            <DateField label="Date" value={when.date} onChange={(date) => setWhen({ ...when, date })} />
          </div>
          <TimeField label="Time" value={when.time} onChange={(time) => setWhen({ ...when, time })} />
          <Button
            disabled={!isDate(when.date) || !isTime(when.time)}
            onClick={() => {
              hand.move(mark, when.date, minutesOf(when.time));
              onClose();
            }}
          >
            Move
          </Button>
          <Button
            look="quiet"
            onClick={() => {
              hand.leaveOut(mark);
              onClose();
            }}
          >
            {mark.editId ? "Drop the edit" : "Leave out"}
          </Button>
        </div>
      )}
      {mark.logId ? (
        <Button
          icon={<Undo2 size={14} />}
          disabled={undo.isPending}
          onClick={() =>
            undo.mutateAsync(mark.logId!).then(() => {
              say.done(mark.ruleId ? "Undone. Its rule does nothing until you resume it." : "Undone.");
              onClose();
            }, say.trouble)
          }
        >
          Undo this run
        </Button>
      ) : null}
    </Panel>
  );
}
