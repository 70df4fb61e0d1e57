import { useSay } from "../../ui/toast";
import { stepsAfter, useSteps } from "./steps";

/** Tells of a change that has just been made, and offers to undo it. */
export function useTell(site: string) {
  const say = useSay();
  const { undo } = useSteps(site);
  /** Where one act took several changes: how many steps there were before it. */
  return (text: string, before?: number) => {
    const lines = stepsAfter(site, before);
    say.done(text, lines.length ? { name: "Undo", go: () => undo(lines) } : undefined);
  };
}
