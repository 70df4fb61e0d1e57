import { Button } from "./Button";
import { Warning } from "./Trouble";

/** Says that somebody else changed what is being changed here. */
export function MovedOn({ what, onTake }: { what: string; onTake: () => void }) {
  return (
    <div className="mb-3 flex items-center gap-2">
      <Warning>Somebody else changed {what}. What you entered is still here, but not saved.</Warning>
      <Button onClick={onTake}>Load theirs</Button>
    </div>
  );
}
