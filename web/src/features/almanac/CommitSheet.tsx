import { useState } from "react";
import { Refusal } from "../../api/client";
import { Button } from "../../ui/Button";
import { clock } from "../../ui/civil";
import { shownDate } from "../../ui/siteClock";
import { DateField } from "../../ui/DateField";
import { Sheet } from "../../ui/Sheet";
import { Warning } from "../../ui/Trouble";
import { isDate } from "../../ui/typed";
import { Unproven } from "../../ui/Unproven";
import { useTell } from "../logbook/useTell";
import { useCommit, usePlacementFrom, type ShelfItem } from "../plan/almanac";

type Props = {
  site: string;
  today: string;
  shelf: ShelfItem[];
  /** Stands for the slots that the shelf shows. */
  token: string;
  /** More deadlines might be met than the shelf's slots meet. */
  unproven: boolean;
  open: boolean;
  onClose: () => void;
};

/** What committing would do, draft by draft; and if the plan has changed meanwhile, what it would do now. */
export function CommitSheet({ site, today, shelf, token, unproven, open, onClose }: Props) {
  const commit = useCommit(site);
  const [from, setFrom] = useState("");
  const readable = from === "" || isDate(from);
  const past = isDate(from) && from < today;
  const backdated = usePlacementFrom(site, from, open && past);
  const tell = useTell(site);
  const changed = commit.error instanceof Refusal ? commit.error.problem.placement : undefined;
  const asked = changed ?? (past ? backdated.data : undefined);
  const items = asked ? [...asked.placed, ...asked.unplaced] : past ? [] : shelf;
  const placed = items.flatMap((s) => (s.proposed ? [{ ...s, proposed: s.proposed }] : []));
  const unplaced = items.filter((s) => !s.proposed);
  const count = placed.length === 1 ? "1 draft" : `${placed.length} drafts`;

  const atOnce = placed.filter((p) => p.proposed.date < today).length;

  function close() {
    commit.reset();
    setFrom("");
    onClose();
  }
  function go() {
    commit.mutate(
      { token: asked?.token ?? token, ...(past ? { from } : {}) },
      {
        onSuccess: () => {
          tell(`${count} scheduled.`);
          close();
        },
      },
    );
  }

  return (
    <Sheet
      open={open}
      onClose={close}
      title={`Schedule ${count}`}
      actions={
        <>
          <div className="mr-auto flex items-center gap-2 text-sm text-soft">
            <span aria-hidden>Start from</span>
            <DateField
              label="Start from"
              hideLabel
              optional
              placeholder="today"
              toward="back"
              most={today}
              value={from}
              onChange={(date) => {
                commit.reset();
                setFrom(date);
              }}
            />
          </div>
          <Button onClick={close}>Cancel</Button>
          <Button look="main" onClick={go} disabled={commit.isPending || placed.length === 0 || !readable}>
            Schedule {count}
          </Button>
        </>
      }
    >
      {past && atOnce > 0 && (
        <p className="mb-3 rounded-md bg-open px-3 py-2 text-sm">
          {atOnce === 1 ? "1 of them has" : `${atOnce} of them have`} a time that is past: published at once,
          with that date.
        </p>
      )}
      {backdated.error && <Warning>{backdated.error.message}</Warning>}
      {commit.error && <Warning>{commit.error.message}</Warning>}
      {(asked ? asked.unproven : unproven) && <Unproven />}
      <table className="w-full text-sm">
        <thead className="sr-only">
          <tr>
            <th>Time</th>
            <th>Draft and reason</th>
          </tr>
        </thead>
        <tbody>
          {placed.map((p) => (
            <tr key={p.id} className="border-b border-line align-top last:border-0">
              <td className="w-36 py-1.5 pr-4 whitespace-nowrap">
                {shownDate(p.proposed.date)},{" "}
                <span className="font-semibold">{clock(p.proposed.minute)}</span>
              </td>
              <td className="py-1.5">
                <span className="font-medium">{p.title}</span>
                <span className="block text-xs text-soft">{p.reason}</span>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {unplaced.length > 0 && (
        <section className="mt-4">
          <h3 className="mb-1 text-sm font-semibold text-madder">These stay on the shelf</h3>
          <ul className="space-y-1 text-sm">
            {unplaced.map((u) => (
              <li key={u.id}>
                <span className="font-medium">{u.title}</span> <span className="text-soft">{u.reason}</span>
              </li>
            ))}
          </ul>
        </section>
      )}
      <p className="mt-4 text-xs text-faint">
        Everything is done, or nothing is: if the plan changes first, you are shown the new one.
      </p>
    </Sheet>
  );
}
