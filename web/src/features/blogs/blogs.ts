import { useQueries } from "@tanstack/react-query";
import { answer, api, type Schemas } from "../../api/client";

export type Almanac = Schemas["Almanac"];
export type Status = Schemas["Status"];
export type Entry = Schemas["Entry"];
export type Site = { slug: string; title: string; zone: string; role: string; archived?: boolean };

const everyMinute = 60_000;

/** The plans of several blogs from today on, and how each of them is. */
export function useBlogs(sites: Site[], days: number) {
  return useQueries({
    queries: sites.map((s) => ({
      queryKey: ["plan", s.slug, "beside", days],
      queryFn: async () => {
        const path = { site: s.slug };
        const [almanac, status] = await Promise.all([
          answer(api.GET("/api/v1/sites/{site}/almanac", { params: { path, query: { days } } })),
          answer(api.GET("/api/v1/sites/{site}/status", { params: { path } })),
        ]);
        return { almanac, status };
      },
      refetchInterval: everyMinute,
    })),
  });
}

/** Until when the shelf lasts: the date of the last draft that has a slot. */
export function lasts(shelf: Almanac["shelf"]): string | undefined {
  return shelf.reduce<string | undefined>(
    (last, d) => (d.proposed && (!last || d.proposed.date > last) ? d.proposed.date : last),
    undefined,
  );
}

export type Trouble = { text: string; to: string };

/** What of a blog needs somebody. */
export function troubles({ slug }: Site, s: Status): Trouble[] {
  const n = (count: number, one: string, many: string) => `${count} ${count === 1 ? one : many}`;
  const found: Trouble[] = [];
  if (s.overdue > 0)
    found.push({ text: n(s.overdue, "post overdue", "posts overdue"), to: `/${slug}/overdue` });
  if (s.asking.length > 0)
    found.push({
      text: n(s.asking.length, "rule needs your decision", "rules need your decision"),
      to: `/${slug}/rules/${s.asking[0]!.id}`,
    });
  if (s.heldEdits.length > 0)
    found.push({
      text: n(s.heldEdits.length, "timed edit on hold", "timed edits on hold"),
      to: `/${slug}/edits/${s.heldEdits[0]!.id}`,
    });
  if (s.failed > 0)
    found.push({ text: n(s.failed, "message not sent", "messages not sent"), to: `/${slug}/channels` });
  if (s.aside > 0)
    found.push({
      text: n(s.aside, "message waits for you", "messages wait for you"),
      to: `/${slug}/channels`,
    });
  if (s.stuck.length > 0)
    found.push({ text: `nothing reaches ${s.stuck.join(", ")}`, to: `/${slug}/settings/destinations` });
  return found;
}
