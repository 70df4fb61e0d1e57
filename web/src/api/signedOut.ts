import { useSyncExternalStore } from "react";

let out = false;
const watchers = new Set<() => void>();

function subscribe(watcher: () => void) {
  watchers.add(watcher);
  return () => watchers.delete(watcher);
}

/** Says that the server knows no session of ours, or knows one again. */
export function setSignedOut(now: boolean) {
  if (out === now) return;
  out = now;
  watchers.forEach((w) => w());
}

/** Whether the session has ended: the server asked to sign in when it was asked last. */
export const useSignedOut = () => useSyncExternalStore(subscribe, () => out);
