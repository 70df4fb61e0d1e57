import { useSyncExternalStore } from "react";
import type { Almanac } from "../plan/almanac";
import type { DayGround } from "./moves";

/** A post that can be moved, and where it is. */
export type Held = {
  id: number;
  version: number;
  title: string;
  date?: string;
  minute?: number;
  /** It has no time yet: what is shown is only proposed. */
  draft: boolean;
  /** Its place on the shelf, from 0. */
  shelf?: number;
};

/** All posts of the plan that can be moved, by their ids. */
export function movable(plan: Almanac): Map<number, Held> {
  const posts = new Map<number, Held>();
  for (const { id, version, title } of plan.drafts)
    if (title) posts.set(id, { id, version, title, draft: true });
  plan.shelf.forEach(({ id, version, title, proposed }, shelf) =>
    posts.set(id, {
      id,
      version,
      title,
      draft: true,
      shelf,
      ...(proposed ? { date: proposed.date, minute: proposed.minute } : {}),
    }),
  );
  for (const e of [...plan.days.flatMap((d) => d.entries), ...plan.held])
    if (e.status === "scheduled")
      posts.set(e.id, {
        id: e.id,
        version: e.version,
        title: e.title,
        date: e.date,
        minute: e.minute,
        draft: false,
      });
  return posts;
}

/** The posts that are in the air now, and what is in their way, kept outside React: only what shows it is drawn anew. */
type State = { posts: Held[]; ground: ReadonlyMap<string, DayGround> };

const nothing: State = { posts: [], ground: new Map() };

let state = nothing;
const watchers = new Set<() => void>();

export function setHeld(next: State | undefined) {
  state = next ?? nothing;
  // What is said must not be in the way of where something comes down.
  if (next) document.documentElement.dataset.holding = "";
  else delete document.documentElement.dataset.holding;
  for (const watch of watchers) watch();
}

export const heldNow = () => state;

function watch(changed: () => void) {
  watchers.add(changed);
  return () => watchers.delete(changed);
}

/** What is in the way on a day; undefined while nothing is held. */
export function useGround(date: string): DayGround | undefined {
  return useSyncExternalStore(watch, () => state.ground.get(date));
}

/** The minute on which it lands if it is let go at one, as the server says; undefined where the day has none. */
export function landsOn(day: DayGround | undefined, minute: number): number | undefined {
  const landing = day?.landings.find((l) => l.from <= minute && minute < l.to);
  return landing ? landing.at : minute;
}
