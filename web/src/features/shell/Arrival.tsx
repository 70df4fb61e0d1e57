import { useEffect, useRef } from "react";
import { useLocation } from "react-router";

/** How long a screen may take to be there, in milliseconds; then the focus stays where it is. */
const patience = 3000;

/**
 * On each new screen the focus goes to its heading, so that keys and screen readers begin there; unless the screen
 * has put it somewhere itself.
 */
export function Arrival({ title }: { title: string }) {
  const { pathname } = useLocation();
  const before = useRef(pathname);
  useEffect(() => {
    if (before.current === pathname) return;
    before.current = pathname;
    const until = performance.now() + patience;
    let frame = requestAnimationFrame(function look() {
      const main = document.querySelector("main");
      const heading = main?.querySelector<HTMLElement>("h1");
      const here = document.activeElement;
      const placed = here !== main && main?.contains(here);
      if (heading && !placed && !document.querySelector('[role="dialog"]')) {
        heading.tabIndex = -1;
        heading.focus({ preventScroll: true });
      } else if (!heading && performance.now() < until) {
        frame = requestAnimationFrame(look);
      }
    });
    return () => cancelAnimationFrame(frame);
  }, [pathname]);
  return <title>{title}</title>;
}
