import { useState, type FocusEvent, type KeyboardEvent } from "react";

/**
 * Makes a row of buttons one stop of the Tab key, as a toolbar is (ARIA Authoring Practices, "Roving tabindex"): arrows,
 * Home and End go from one to the next within it. `first` is where one comes in.
 */
export function useRoving(first: number) {
  const [at, setAt] = useState<number>();
  const buttons = (group: Element) => [...group.querySelectorAll<HTMLElement>("button")];
  return {
    group: {
      onKeyDown(e: KeyboardEvent) {
        const all = buttons(e.currentTarget);
        const here = all.indexOf(document.activeElement as HTMLElement);
        const to = { ArrowRight: here + 1, ArrowLeft: here - 1, Home: 0, End: all.length - 1 }[e.key];
        if (to === undefined || here < 0) return;
        e.preventDefault();
        all[(to + all.length) % all.length]?.focus();
      },
      onFocus: (e: FocusEvent) => setAt(buttons(e.currentTarget).indexOf(e.target as HTMLElement)),
      // Who comes back comes in at what is chosen.
      onBlur: (e: FocusEvent) => {
        if (!e.currentTarget.contains(e.relatedTarget)) setAt(undefined);
      },
    },
    tabIndex: (i: number) => (i === (at ?? Math.max(first, 0)) ? 0 : -1),
  };
}
