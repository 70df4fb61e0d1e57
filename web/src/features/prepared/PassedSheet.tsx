import { Button } from "../../ui/Button";
import { shownPlace } from "../../ui/siteClock";
import { Sheet } from "../../ui/Sheet";
import type { Passed, Row } from "./prepared";

type Props = { rows: Row[]; onChoose: (choice: Passed) => void; onClose: () => void };

/** What becomes of messages whose time has passed. */
export function PassedSheet({ rows, onChoose, onClose }: Props) {
  const one = rows.length === 1;
  return (
    <Sheet
      open
      onClose={onClose}
      title={one ? "Its time has passed" : `The time of ${rows.length} messages has passed`}
      actions={
        <>
          <Button onClick={onClose}>Cancel</Button>
          <Button onClick={() => onChoose("leave")}>{one ? "Leave it" : "Leave them"}</Button>
          <Button onClick={() => onChoose("now")}>Send now</Button>
          <Button look="main" onClick={() => onChoose("opening")}>
            {one ? "Next opening" : "Next openings"}
          </Button>
        </>
      }
    >
      <ul className="mb-3 divide-y divide-line border-y border-line text-sm">
        {rows.map((r) => (
          <li key={r.id} className="flex gap-3 py-1">
            <span className="w-32 shrink-0 text-soft">{r.place && shownPlace(r.place)}</span>
            <span className="min-w-0 flex-1 truncate">{r.text}</span>
          </li>
        ))}
      </ul>
      <p className="text-sm text-soft">
        {one ? "It can" : "They can"} go out now, as soon as the channels allow, or at the next{" "}
        {one ? "opening" : "openings"}. Left as {one ? "it is, it isn’t" : "they are, they aren’t"} marked
        ready.
      </p>
    </Sheet>
  );
}
