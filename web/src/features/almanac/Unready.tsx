import { useQuery } from "@tanstack/react-query";
import { answer, api } from "../../api/client";
import { shownPlace } from "../../ui/siteClock";

/** What is missing in posts that are about to come out. */
export function useUnready(site: string) {
  return useQuery({
    queryKey: ["plan", site, "unready"],
    queryFn: () => answer(api.GET("/api/v1/sites/{site}/unready", { params: { path: { site } } })),
  });
}

/** A list of them, post by post; nothing where nothing is missing. */
export function Unready({ site, onPost }: { site: string; onPost: (id: number) => void }) {
  const found = useUnready(site).data ?? [];
  if (found.length === 0) return null;
  const posts = [...Map.groupBy(found, (f) => f.postId).values()];
  return (
    <details className="rounded-md border border-line bg-sheet">
      <summary className="px-3 py-1.5 text-sm font-semibold">
        Not quite ready <span className="font-normal text-soft">({posts.length})</span>
      </summary>
      <ul className="divide-y divide-line border-t border-line">
        {posts.map((these) => {
          const first = these[0]!;
          return (
            <li key={first.postId}>
              <button
                type="button"
                onClick={() => onPost(first.postId)}
                className="w-full px-3 py-1.5 text-left text-sm hover:bg-sunk"
              >
                <span className="block truncate font-medium">{first.title}</span>
                <span className="block text-xs text-soft">{shownPlace(first)}</span>
                {these.map((f) => (
                  <span key={f.message} className="block text-xs text-away">
                    {f.message}
                  </span>
                ))}
              </button>
            </li>
          );
        })}
      </ul>
    </details>
  );
}

/** What is missing, by the post. */
export function lacksOf(
  found: { postId: number; message: string }[] | undefined,
): ReadonlyMap<number, string> {
  const lacks = new Map<number, string>();
  for (const { postId, message } of found ?? [])
    lacks.set(postId, [lacks.get(postId), message].filter(Boolean).join(" "));
  return lacks;
}
