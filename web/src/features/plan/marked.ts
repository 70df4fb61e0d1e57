import type { AlmanacDay } from "./almanac";

export type Marked = {
  id: number;
  title: string;
  minute: number;
  /** Clocks show that minute for the second time on the day. */
  again?: boolean | undefined;
  kind: "out" | "held" | "scheduled" | "pinned" | "proposed" | "leaving";
  /** What readers would miss in it, if it came out as it is. */
  lacks?: string | undefined;
};

/** How each kind of mark looks, and its word. */
export const looks = {
  out: { bar: "w-px bg-faint", text: "text-faint", title: "", word: "out" },
  held: { bar: "w-[3px] bg-madder", text: "text-madder", title: "font-medium", word: "held" },
  scheduled: { bar: "w-[3px] bg-ink", text: "text-ink", title: "font-medium", word: "scheduled" },
  pinned: { bar: "w-[3px] bg-ink", text: "text-ink", title: "font-medium", word: "pinned" },
  proposed: {
    bar: "w-0 border-l-2 border-dashed border-chalk",
    text: "text-chalk",
    title: "italic",
    word: "proposed",
  },
  leaving: { bar: "w-px bg-faint", text: "text-faint", title: "line-through", word: "moves away" },
};

/** Names a mark within its day. It stays the same when the post is pinned or comes out, so that the focus stays on it. */
export function markKey(m: Marked): string {
  return `${m.kind === "leaving" ? "was" : "post"}-${m.id}`;
}

function kindOf(e: AlmanacDay["entries"][number]): Marked["kind"] {
  if (e.status === "published") return "out";
  if (e.held) return "held";
  return e.pinned ? "pinned" : "scheduled";
}

/** What stands on a day, by its minute: posts and what is proposed. */
export function marksOf(day: AlmanacDay, lacks?: ReadonlyMap<number, string>): Marked[] {
  const entries = day.entries.map((e) => ({
    id: e.id,
    title: e.title,
    minute: e.minute,
    again: e.again,
    kind: kindOf(e),
    lacks: lacks?.get(e.id),
  }));
  const ghosts = day.ghosts.map((g) => ({
    id: g.id,
    title: g.title,
    minute: g.minute,
    again: g.again,
    kind: "proposed" as const,
    lacks: lacks?.get(g.id),
  }));
  return [...entries, ...ghosts].sort((a, b) => a.minute - b.minute);
}
