import { useSyncExternalStore } from "react";

/** Whether the window is as narrow as a phone's: below 48 rem. */
export function useNarrow(): boolean {
  return useSyncExternalStore(watch, () => narrow().matches);
}

const narrow = () => window.matchMedia("(max-width: 47.99rem)");

function watch(changed: () => void): () => void {
  const list = narrow();
  list.addEventListener("change", changed);
  return () => list.removeEventListener("change", changed);
}
