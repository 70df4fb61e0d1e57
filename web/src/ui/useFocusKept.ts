import { useEffect } from "react";

/** What the focus falls back to, from the inside out. */
const regions = "section, aside, form, fieldset, ul, ol, table, [role=group], [role=dialog], main";

/**
 * Keeps the focus near where it was when what had it leaves the page, as a button does that did its deed: it goes to
 * the nearest region around it that is still there, unless something else has taken it within two frames.
 */
export function useFocusKept() {
  useEffect(() => {
    let last: Element | undefined;
    let around: HTMLElement[] = [];
    let frame = 0;
    const come = ({ target }: FocusEvent) => {
      last = target as Element;
      around = [];
      for (let e = last.parentElement; e; e = e.parentElement) if (e.matches(regions)) around.push(e);
    };
    // Who leaves it by themselves, by a press beside it, has given it up. What leaves the page may say so before it does.
    const leave = ({ target, relatedTarget }: FocusEvent) => {
      if (relatedTarget) return;
      queueMicrotask(() => {
        if (last === target && last.isConnected) last = undefined;
      });
    };
    const look = () => {
      const region = around.find((e) => e.isConnected);
      if (!last || last.isConnected || document.activeElement !== document.body || !region) return;
      last = undefined;
      if (!region.hasAttribute("tabindex")) region.tabIndex = -1;
      region.focus({ preventScroll: true });
    };
    const watch = new MutationObserver(() => {
      if (!last || last.isConnected) return;
      cancelAnimationFrame(frame);
      frame = requestAnimationFrame(() => (frame = requestAnimationFrame(look)));
    });
    document.addEventListener("focusin", come);
    document.addEventListener("focusout", leave);
    watch.observe(document.body, { childList: true, subtree: true });
    return () => {
      cancelAnimationFrame(frame);
      watch.disconnect();
      document.removeEventListener("focusin", come);
      document.removeEventListener("focusout", leave);
    };
  }, []);
}
