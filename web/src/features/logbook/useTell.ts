import { useSay } from "../../ui/toast";
import { lastOwnLine } from "./logbook";
import { inTurn, remember, useSteps } from "./steps";

/** Tells of a change to the plan that has just been made, and offers to undo it, now and later. */
export function useTell(site: string) {
  const say = useSay();
  const { undo } = useSteps(site);
  function tellOf(text: string, line: number | undefined) {
    if (line) remember(site, line);
    say.done(text, line ? { name: "Undo", go: () => undo(line) } : undefined);
  }
  /** The line of the logbook is looked up where it is not known. */
  return (text: string, line?: number) => {
    if (line !== undefined) return tellOf(text, line);
    inTurn(() => lastOwnLine(site)).then(
      (last) => tellOf(text, last?.id),
      () => say.done(text),
    );
  };
}
