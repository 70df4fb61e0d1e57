import { MoveRight } from "lucide-react";
import { useState } from "react";
import { clock, hhmm, minutesOf } from "../../ui/civil";
import { shownDate, shownPlace } from "../../ui/siteClock";
import { DateField } from "../../ui/DateField";
import { isDate, isTime } from "../../ui/typed";
import { TimeField } from "../../ui/TimeField";
import type { ByHand, Near, Reflow, Step } from "../plan/reflow";

type Props = {
  steps: Step[];
  adjusted: ByHand[];
  near: Near;
  /** Gives a line another time by hand; absent where lines stand as they are. */
  onAdjust?: ((line: ByHand | undefined, id: number) => void) | undefined;
};

/** The steps of a proposal, from → to, each with its reason. */
export function StepsTable({ steps, adjusted, near, onAdjust }: Props) {
  return (
    <table className="w-full text-sm">
      <thead className="sr-only">
        <tr>
          <th>From</th>
          <th>To</th>
          <th>Post and reason</th>
        </tr>
      </thead>
      <tbody>
        {steps.map((s) => (
          <Row
            key={s.id}
            step={s}
            byHand={adjusted.find((a) => a.id === s.id)}
            near={near.get(s.id)}
            onAdjust={onAdjust}
          />
        ))}
      </tbody>
    </table>
  );
}

/** What is not moved, and why. */
export function Left({ left }: { left: Reflow["left"] }) {
  if (left.length === 0) return null;
  return (
    <section className="mt-4">
      <h3 className="mb-1 text-sm font-semibold text-madder">
        {left.length === 1 ? "This one stays" : `These ${left.length} stay`}
      </h3>
      <ul className="space-y-1 text-sm">
        {left.map((l) => (
          <li key={l.id}>
            <span className="font-medium">{l.title || "Untitled"}</span>{" "}
            <span className="text-soft">{l.reason}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}

type RowProps = {
  step: Step;
  byHand: ByHand | undefined;
  near: { note: string }[] | undefined;
  onAdjust: Props["onAdjust"];
};

function Row({ step, byHand, near, onAdjust }: RowProps) {
  const [editing, setEditing] = useState(false);
  const to = step.to;
  return (
    <tr className="border-b border-line align-top last:border-0">
      <td className="py-1.5 pr-2 whitespace-nowrap text-soft">
        {step.from ? `${shownPlace(step.from)}` : "a draft"}
      </td>
      <td className="w-6 py-1.5 pr-2">
        <MoveRight size={14} aria-label="to" className="mt-0.5 text-soft" />
      </td>
      <td className="w-44 py-1.5 pr-4 whitespace-nowrap">
        {!to ? (
          "the shelf"
        ) : editing && onAdjust ? (
          <span className="flex gap-1">
            <DateField
              label={`Date of “${step.title}”`}
              hideLabel
              value={byHand?.date ?? to.date}
              onChange={(date) =>
                onAdjust({ id: step.id, date, time: byHand?.time ?? hhmm(to.minute) }, step.id)
              }
            />
            <TimeField
              label={`Time of “${step.title}”`}
              hideLabel
              value={byHand?.time ?? hhmm(to.minute)}
              onChange={(time) => onAdjust({ id: step.id, date: byHand?.date ?? to.date, time }, step.id)}
            />
          </span>
        ) : (
          <>
            {shownDate(byHand && isDate(byHand.date) ? byHand.date : to.date)},{" "}
            <span className="font-semibold">
              {clock(byHand && isTime(byHand.time) ? minutesOf(byHand.time) : to.minute)}
            </span>
          </>
        )}
        {step.past && (
          <span className="block text-xs text-away">
            {byHand ? "at once where that is past" : "at once, with that date"}
          </span>
        )}
      </td>
      <td className="py-1.5">
        <span className="flex items-baseline justify-between gap-3">
          <span dir="auto" className="font-medium">
            {step.title}
          </span>
          {onAdjust && to && (
            <button
              type="button"
              aria-label={
                byHand ? `As proposed: ${step.title}` : `${editing ? "Done" : "Change"}: ${step.title}`
              }
              onClick={() => {
                if (byHand) onAdjust(undefined, step.id);
                setEditing(!editing && !byHand);
              }}
              className="shrink-0 text-xs text-soft underline underline-offset-2 hover:text-ink"
            >
              {byHand ? "As proposed" : editing ? "Done" : "Change"}
            </button>
          )}
        </span>
        <span className="block text-xs text-soft">
          {byHand ? "Given a time by hand, and pinned there." : step.reason}
        </span>
        {byHand && near && (
          <span role="status" className="block text-xs text-away">
            {near.map((n) => n.note).join(" ")}
          </span>
        )}
      </td>
    </tr>
  );
}
