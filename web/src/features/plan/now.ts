import { useSyncExternalStore } from "react";

export type ServerNow = { at: string; date: string; minute: number; received: number };

let second = Math.floor(Date.now() / 1000);
const watchers = new Set<() => void>();
let timer: number | undefined;

function watch(changed: () => void) {
  watchers.add(changed);
  timer ??= window.setInterval(() => {
    second = Math.floor(Date.now() / 1000);
    watchers.forEach((w) => w());
  }, 1000);
  return () => {
    watchers.delete(changed);
    if (watchers.size === 0) {
      window.clearInterval(timer);
      timer = undefined;
    }
  };
}

/** The time by the server's clock, going on from when it was last told; the browser's clock only counts seconds. */
export function useNow(told: ServerNow | undefined) {
  const now = useSyncExternalStore(watch, () => second);
  if (!told) return undefined;
  const start = Date.parse(told.at);
  const millis = start + Math.max(0, now * 1000 - told.received);
  const minute = told.minute + Math.floor(millis / 60_000) - Math.floor(start / 60_000);
  return { millis, date: told.date, minute: Math.min(minute, 1439) };
}
