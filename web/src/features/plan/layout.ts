/** Minutes in a row of the tape. */
export const rowMinutes = 24 * 60;

/** The fewest minutes of tape in which a label can be read, where a day has the width of the window. */
export const legible = 150;

/** Where a label is: after the place "at", or before it, and how wide. */
export type Label = { side: "after" | "before"; minutes: number; at: number };

/**
 * Where each mark of a row has its label: after the mark as far as the next one, or before it where the end of the
 * day leaves too little room. Those of one minute share the room, if it is enough. The minutes must be in order.
 */
export function labels(minutes: number[], least: number = legible): Label[] {
  let free = 0; // where the last label ends
  const all: Label[] = [];
  while (all.length < minutes.length) {
    const minute = minutes[all.length]!;
    const n = minutes.filter((m) => m === minute).length;
    const next = minutes[all.length + n] ?? rowMinutes;
    const after = next - minute;
    const before = minute - free;
    const last = all.at(-1);
    const given = Math.min(least, (last?.minutes ?? 0) / 2);
    if (n === 1 && after < least && before < least && last?.side === "after" && given > after) {
      // The label before it has more than there is after this one, and gives some of it away.
      last.minutes -= given;
      all.push({ side: "before", minutes: given, at: minute });
      free = minute;
      continue;
    }
    const side = after < least && before > after ? "before" : "after";
    const whole = side === "after" ? after : before;
    // Where there is too little for each, they lie on one another as their marks do.
    const room = n > 1 && whole / n >= least ? whole / n : whole;
    for (let i = 0; i < n; i++)
      all.push({
        side,
        minutes: room,
        at: minute + (room === whole ? 0 : side === "after" ? i * room : -i * room),
      });
    free = side === "after" ? next : minute;
  }
  return all;
}

/** A share of the row as CSS. */
export function share(minutes: number): string {
  return `${(minutes / rowMinutes) * 100}%`;
}
