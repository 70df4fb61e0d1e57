import { useEffect, useRef, useSyncExternalStore } from "react";

/** Something one can do from where one is: by the palette, and by keys where it has some. */
export type Command = {
  name: string;
  group: string;
  /** Keys pressed one after the other, such as "g p"; unlike letters with Ctrl they do nothing in a field. */
  keys?: string;
  run: () => void;
};

/** Keys that do something where the focus is, and so are no commands; they are listed with those. */
export type KeyHint = { name: string; group: string; keys: string };

type Place = { current: Command[] };

// What is on the screen says what it can do; the latest comes first.
const places = new Set<Place>();
const listeners = new Set<() => void>();
let shown: Command[] = [];

function changed() {
  shown = [...places].reverse().flatMap((p) => p.current);
  for (const listen of listeners) listen();
}

/** Offers commands as long as the component is on the screen. */
export function useCommands(commands: Command[]) {
  const latest = useRef<Command[]>([]);
  const names = commands.map((c) => `${c.name}\n${c.keys ?? ""}`).join("\n");
  useEffect(() => {
    latest.current = commands;
  });
  useEffect(() => {
    const place: Place = { current: latest.current };
    // What a command does is asked for when it is done: it may have changed since.
    place.current = latest.current.map((c, i) => ({ ...c, run: () => latest.current[i]?.run() }));
    places.add(place);
    changed();
    return () => {
      places.delete(place);
      changed();
    };
  }, [names]);
}

/** All that can be done now. */
export function useAllCommands(): Command[] {
  return useSyncExternalStore(
    (listen) => {
      listeners.add(listen);
      return () => listeners.delete(listen);
    },
    () => shown,
  );
}

/** What can be done now, for one who asks but once. */
export function commandsNow(): Command[] {
  return shown;
}

const offKey = "dapper.keys-off";

/** Whether single keys do something. They can be switched off, as for those who speak to their machine. */
export const keysOn = () => localStorage.getItem(offKey) !== "yes";

export function setKeysOn(on: boolean) {
  if (on) localStorage.removeItem(offKey);
  else localStorage.setItem(offKey, "yes");
}
