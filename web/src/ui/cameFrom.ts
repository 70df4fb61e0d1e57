/** Where the focus was last, which may have left the page by now, and of which post that told. */
type From = { element: HTMLElement; post: string | undefined; within: string };

let last: From | undefined;
let pressedAt = -Infinity;

const regions = "section[aria-label], aside[aria-label]";

document.addEventListener("focusin", ({ target }) => {
  const element = target as HTMLElement;
  last = {
    element,
    post: element.closest<HTMLElement>("[data-post]")?.dataset.post,
    within: element.closest(regions)?.ariaLabel ?? "",
  };
});
document.addEventListener("pointerdown", () => (pressedAt = performance.now()), { capture: true });

/** How long after a press of the pointer something may still come of it, in milliseconds. */
const ofThePress = 700;

/** Whence somebody came by keys, or by what stands for them; undefined where it was by the pointer, or not at all. */
export function cameByKeysFrom(): From | undefined {
  if (performance.now() - pressedAt < ofThePress) return undefined;
  const here = document.activeElement;
  return here === document.body || here === last?.element ? last : undefined;
}

/** Puts the focus back to where somebody came from, or to what tells of the same post now. */
export function goBackTo({ element, post }: From) {
  const here = document.activeElement;
  if (here !== null && here !== document.body) return; // it has gone on already
  const again = element.isConnected
    ? element
    : post && document.querySelector<HTMLElement>(`[data-post="${post}"]`);
  if (!again) return;
  const focusable = again.matches("a, button, [tabindex]")
    ? again
    : again.querySelector<HTMLElement>("a, button");
  focusable?.focus({ preventScroll: true });
}
