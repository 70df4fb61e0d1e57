import { useMutation } from "../../api/mutation";
import { answer, api, type Schemas } from "../../api/client";
import { useRefresh } from "../../api/live";
import { hhmm } from "../../ui/civil";
import { shownPlace } from "../../ui/siteClock";

export type MovedPost = Schemas["MovedPost"];
export type DayGround = Schemas["DayGround"];
export type SeenPost = Schemas["SeenPost"];

/** Where posts come down: on a day, perhaps at a minute, or on the shelf. */
export type Drop = { posts: SeenPost[]; date?: string; minute?: number };

/** Versions of posts that were just moved, for whoever moves one again before the plan is here. */
const versions = new Map<number, number>();

function remember({ moved }: Schemas["MovedPosts"]) {
  for (const { id, version } of moved) versions.set(id, version);
}

const seen = ({ id, version }: SeenPost): SeenPost => ({
  id,
  version: Math.max(version, versions.get(id) ?? 0),
});

/** Moves posts by hand: all of them, or none. */
export function useMove(site: string) {
  const refresh = useRefresh(site);
  return useMutation({
    mutationFn: ({ posts, date, minute }: Drop) =>
      answer(
        api.POST("/api/v1/sites/{site}/moves", {
          params: { path: { site } },
          body: {
            posts: posts.map(seen),
            ...(date ? { date } : {}),
            ...(minute === undefined ? {} : { time: hhmm(minute) }),
          },
        }),
      ),
    onSuccess: remember,
    onSettled: () => refresh("plan"),
  });
}

/** Exchanges the places of two posts. */
export function useSwap(site: string) {
  const refresh = useRefresh(site);
  return useMutation({
    mutationFn: (posts: SeenPost[]) =>
      answer(
        api.POST("/api/v1/sites/{site}/swaps", {
          params: { path: { site } },
          body: { posts: posts.map(seen) },
        }),
      ),
    onSuccess: remember,
    onSettled: () => refresh("plan"),
  });
}

/** What is in the way of posts that are lifted, day by day. */
export async function groundOf(
  site: string,
  posts: number[],
  from: string,
  days: number,
): Promise<Map<string, DayGround>> {
  const ground = await answer(
    api.GET("/api/v1/sites/{site}/ground", {
      params: { path: { site }, query: { posts: posts.slice(0, 200), from, days } },
    }),
  );
  return new Map(ground.days.map((d) => [d.date, d]));
}

/** What was done, in a sentence. */
export function movedWords(moved: MovedPost[]): string {
  const [one] = moved;
  if (!one) return "Nothing was moved.";
  const notes = moved.flatMap((m) => (m.note ? [moved.length > 1 ? `“${m.title}”: ${m.note}` : m.note] : []));
  if (moved.length > 1) {
    const where = one.to ? "moved" : "put back on the shelf";
    return [`${moved.length} posts ${where}.`, ...notes.slice(0, 3)].join(" ");
  }
  if (!one.to) return `“${one.title}” is back at the front of the shelf.`;
  return [`“${one.title}” moved to ${shownPlace(one.to)}.`, ...notes].join(" ");
}
