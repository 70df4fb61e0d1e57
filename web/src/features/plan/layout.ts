/** Minutes in a row of the tape. */
export const rowMinutes = 24 * 60;

/** The fewest minutes of tape in which a label can be read, where a day has the width of the window. */
export const legible = 150;

export type Label = { side: "after" | "before"; minutes: number };

/**
 * Where each mark of a row has its label: after the mark as far as the next one, or before it where the end of the
 * day leaves too little room. The minutes must be in order.
 */
export function labels(minutes: number[], least: number = legible): Label[] {
  let free = 0; // where the last label ends
  return minutes.map((minute, i) => {
    const next = minutes[i + 1] ?? rowMinutes;
    const after = next - minute;
    const before = minute - free;
    if (after < least && before > after) {
      free = minute;
      return { side: "before", minutes: before };
    }
    free = next;
    return { side: "after", minutes: after };
  });
}

/** A share of the row as CSS. */
export function share(minutes: number): string {
  return `${(minutes / rowMinutes) * 100}%`;
}
