import type { QueryClient } from "@tanstack/react-query";

/** What can change of a site, as its events name it; "all" is anything, unseen. */
export type Part = "text" | "title" | "plan" | "rhythm" | "rules" | "site" | "comments" | "remarks" | "all";

/** Posts that changed, in their versions; absent where it is not known which. */
export type Versions = { id: number; version: number }[] | undefined;

/**
 * What of a site shows each part: the second names of query keys that begin with "plan". Whatever is not listed here
 * shows none of it.
 */
const shows: Record<Exclude<Part, "all">, readonly string[]> = {
  text: [
    "edits",
    "texts",
    "posts",
    "counts",
    "find",
    "unready",
    "rule-preview",
    "rule-why",
    "forecast",
    "marks",
  ],
  title: [
    "edits",
    "texts",
    "posts",
    "counts",
    "find",
    "unready",
    "rule-preview",
    "rule-why",
    "forecast",
    "marks",
    "almanac",
    "status",
    "overdue",
    "placement",
    "closing",
  ],
  plan: [
    ...[
      "edits",
      "texts",
      "posts",
      "counts",
      "find",
      "unready",
      "rule-preview",
      "rule-why",
      "forecast",
      "marks",
      "almanac",
      "status",
    ],
    ...[
      "overdue",
      "placement",
      "closing",
      "reflow",
      "preview",
      "season preview",
      "what if",
      "zone",
      "rules",
      "logbook",
    ],
  ],
  rhythm: [
    "almanac",
    "placement",
    "closing",
    "reflow",
    "preview",
    "season preview",
    "what if",
    "forecast",
    "marks",
    "logbook",
  ],
  comments: ["comments", "rule-preview", "rule-why", "logbook"],
  remarks: ["remarks", "status"],
  rules: [
    "edits",
    "channels",
    "outings",
    "prepared",
    "webhooks",
    "told",
    "destinations",
    "copies",
    "copies-of",
    "composed",
    "channel-deletion",
    "post-say",
    "rules",
    "rule-preview",
    "rule-why",
    "rule-runs",
    "forecast",
    "marks",
    "status",
    "logbook",
  ],
  site: [
    "almanac",
    "status",
    "placement",
    "closing",
    "reflow",
    "preview",
    "season preview",
    "what if",
    "zone",
    "overdue",
    "forecast",
    "logbook",
  ],
};

const posts: readonly Part[] = ["text", "title", "plan"];

/** Asks anew for what shows the parts that have changed, and for nothing else. */
export function refresh(queries: QueryClient, site: string, parts: readonly Part[], versions?: Versions) {
  const all = parts.includes("all");
  const names = new Set(parts.flatMap((p) => (p === "all" ? [] : shows[p])));
  void queries.invalidateQueries({
    queryKey: ["plan", site],
    predicate: ({ queryKey }) => {
      const [, , name, id, more] = queryKey;
      if (all || names.has(name as string)) return true;
      if (name !== "post" || !parts.some((p) => posts.includes(p))) return false;
      // A post's history goes on with its place, not with its text.
      if (more !== undefined) return parts.includes("plan");
      if (!versions) return true;
      const known = queries.getQueryData<{ version: number }>(queryKey)?.version ?? 0;
      return versions.some((v) => v.id === id && v.version > known);
    },
  });
}
