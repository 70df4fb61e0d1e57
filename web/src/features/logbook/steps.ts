import { useSyncExternalStore } from "react";
import { deedsDone, watchDeeds } from "../../api/deeds";
import { useCommands } from "../../ui/commands";
import { useSay } from "../../ui/toast";
import { useUndo } from "./logbook";

// One after the other: what was done last is taken back first.
let before: Promise<unknown> = Promise.resolve();

/** Undoing waits for what went before it: other undoing, and deeds that are under way. */
function inTurn<T>(work: () => Promise<T>): Promise<T> {
  const done = Promise.all([before, deedsDone()]).then(work);
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

/** The line of the deed that was done last; undefined where it cannot be taken back. */
const latest = new Map<string, number | undefined>();

// Remembers what was just done. What had been undone before can then not be done again.
watchDeeds(({ site, line }) => {
  latest.set(site, line);
  if (line) put(site, { undo: [...stepsOf(site).undo, line], redo: [] });
});

/** How many steps can be taken back now. */
export function stepCount(site: string): number {
  return stepsOf(site).undo.length;
}

/** The lines of the steps done after there were so many; that of the latest deed alone where that is not said. */
export function stepsAfter(site: string, count?: number): number[] {
  if (count !== undefined) return stepsOf(site).undo.slice(count);
  const line = latest.get(site);
  return line ? [line] : [];
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

  /** Takes lines from one end of the steps to the other, the last one first, and returns what takes them back. */
  async function turn(from: keyof Steps, to: keyof Steps, named: number[] | undefined) {
    const lines = named ?? stepsOf(site)[from].slice(-1);
    const back: number[] = [];
    for (const line of lines.toReversed()) {
      const steps = stepsOf(site);
      put(site, { ...steps, [from]: without(steps[from], line) });
      const done = await request.mutateAsync(line);
      if (!done.line) continue;
      back.push(done.line);
      put(site, { ...stepsOf(site), [to]: [...stepsOf(site)[to], done.line] });
    }
    return { any: lines.length > 0, back };
  }

  /** Takes back lines, the latest one where none is named. */
  function undo(named?: number[]) {
    inTurn(async () => {
      const { any, back } = await turn("undo", "redo", named);
      if (any) say.done("Undone.", back.length ? { name: "Do again", go: () => again(back) } : undefined);
    }).catch(say.trouble);
  }

  /** Does again what was undone. */
  function again(named?: number[]) {
    inTurn(async () => {
      const { any, back } = await turn("redo", "undo", named);
      if (any) say.done("Done again.", back.length ? { name: "Undo", go: () => undo(back) } : undefined);
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
