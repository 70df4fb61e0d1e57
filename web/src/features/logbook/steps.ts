import { useSyncExternalStore } from "react";
import { useCommands } from "../../ui/commands";
import { useSay } from "../../ui/toast";
import { useUndo } from "./logbook";

// One after the other: what was done last is taken back first.
let before: Promise<unknown> = Promise.resolve();

/** Undoing waits for what went before it, such as asking for the line of the latest deed. */
export function inTurn<T>(work: () => Promise<T>): Promise<T> {
  const done = before.then(work, work);
  before = done.catch(() => undefined);
  return done;
}

/** Lines of the logbook that one caused in this session and can take back, and undone ones that can be done again. */
type Steps = { undo: number[]; redo: number[] };

const none: Steps = { undo: [], redo: [] };
const bySite = new Map<string, Steps>();
const watchers = new Set<() => void>();

const stepsOf = (site: string) => bySite.get(site) ?? none;

function put(site: string, steps: Steps) {
  bySite.set(site, steps);
  for (const watch of watchers) watch();
}

/** Remembers what was just done. What had been undone before can then not be done again. */
export function remember(site: string, line: number) {
  const { undo } = stepsOf(site);
  if (undo.at(-1) !== line) put(site, { undo: [...undo, line], redo: [] });
}

const without = (lines: number[], line: number) => lines.filter((l) => l !== line);

/** Undo and redo of any depth within the session. */
export function useSteps(site: string) {
  const steps = useSyncExternalStore(
    (changed) => {
      watchers.add(changed);
      return () => watchers.delete(changed);
    },
    () => stepsOf(site),
  );
  const request = useUndo(site);
  const say = useSay();

  /** Takes back a line, the latest one where none is named. */
  function undo(named?: number) {
    inTurn(async () => {
      const steps = stepsOf(site);
      const line = named ?? steps.undo.at(-1);
      if (line === undefined) return;
      put(site, { undo: without(steps.undo, line), redo: steps.redo });
      const done = await request.mutateAsync(line);
      if (done.line) put(site, { ...stepsOf(site), redo: [...stepsOf(site).redo, done.line] });
      say.done("Undone.", done.line ? { name: "Do again", go: () => again(done.line) } : undefined);
    }).catch(say.trouble);
  }

  /** Does again what was undone. */
  function again(named?: number) {
    inTurn(async () => {
      const steps = stepsOf(site);
      const line = named ?? steps.redo.at(-1);
      if (line === undefined) return;
      put(site, { undo: steps.undo, redo: without(steps.redo, line) });
      const done = await request.mutateAsync(line);
      if (done.line) put(site, { ...stepsOf(site), undo: [...stepsOf(site).undo, done.line] });
      say.done("Done again.", done.line ? { name: "Undo", go: () => undo(done.line) } : undefined);
    }).catch(say.trouble);
  }

  return { undo, again, canUndo: steps.undo.length > 0, canRedo: steps.redo.length > 0 };
}

/** Ctrl Z and Ctrl Shift Z, wherever nothing is being written. */
export function useStepKeys(site: string) {
  const { undo, again, canUndo, canRedo } = useSteps(site);
  useCommands([
    ...(canUndo ? [{ name: "Undo", group: "Almanac", keys: "Ctrl Z", run: () => undo() }] : []),
    ...(canRedo ? [{ name: "Do again", group: "Almanac", keys: "Ctrl Shift Z", run: () => again() }] : []),
  ]);
}
