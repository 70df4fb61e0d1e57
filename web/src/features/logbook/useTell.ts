import { useSay } from "../../ui/toast";
import { lastOwnLine, useUndo } from "./logbook";

/** Tells of a change to the plan that has just been made, and offers to undo it. */
export function useTell(site: string) {
  const say = useSay();
  const undo = useUndo(site);
  return (text: string) => {
    lastOwnLine(site).then(
      (line) =>
        say.done(
          text,
          line && {
            name: "Undo",
            go: () => undo.mutate(line.id, { onSuccess: () => say.done("Undone."), onError: say.trouble }),
          },
        ),
      () => say.done(text),
    );
  };
}
