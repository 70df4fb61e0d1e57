import { useQuery } from "@tanstack/react-query";
import { useMutation } from "../../api/mutation";
import { answer, api, type Schemas } from "../../api/client";

export type Feed = Schemas["Feed"];
export type FeedBody = Schemas["FeedBody"];

export function useFeeds(site: string) {
  return useQuery({
    queryKey: ["plan", site, "feeds"],
    queryFn: () => answer(api.GET("/api/v1/sites/{site}/feeds", { params: { path: { site } } })),
    // A new feed is looked at for the first time right away: whoever added it waits for what comes.
    refetchInterval: ({ state }) =>
      state.data?.feeds.some((f) => !f.looked && !f.paused && !f.problem) ? 1000 : 10_000,
  });
}

/** What the newest items of a feed would become; asked for by a button, since it fetches the feed. */
export function usePreviewFeed(site: string) {
  return useMutation({
    mutationFn: (body: FeedBody) =>
      answer(api.POST("/api/v1/sites/{site}/feeds/preview", { params: { path: { site } }, body })),
  });
}

export function useFeedDeeds(site: string) {
  const feeds = useFeeds(site);
  const onSettled = () => void feeds.refetch();
  const one = (id: number) => ({ params: { path: { site, id } } });
  return {
    save: useMutation({
      mutationFn: ({ feed, body }: { feed: Feed | undefined; body: FeedBody }) =>
        feed
          ? answer(
              api.PUT("/api/v1/sites/{site}/feeds/{id}", {
                ...one(feed.id),
                body: { ...body, version: feed.version },
              }),
            )
          : answer(api.POST("/api/v1/sites/{site}/feeds", { params: { path: { site } }, body })),
      onSettled,
    }),
    remove: useMutation({
      mutationFn: (id: number) => answer(api.DELETE("/api/v1/sites/{site}/feeds/{id}", one(id))),
      onSettled,
    }),
    look: useMutation({
      mutationFn: (id: number) => answer(api.POST("/api/v1/sites/{site}/feeds/{id}/look", one(id))),
      onSettled,
    }),
  };
}
