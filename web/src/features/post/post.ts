import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useMutation } from "../../api/mutation";
import { answer, api, type Schemas } from "../../api/client";
import { useRefresh } from "../../api/live";

export type Post = Schemas["Post"];

export function usePost(site: string, id: number) {
  return useQuery({
    queryKey: ["plan", site, "post", id],
    queryFn: () => answer(api.GET("/api/v1/sites/{site}/posts/{id}", { params: { path: { site, id } } })),
    enabled: id !== 0,
  });
}

export function usePostLog(site: string, id: number) {
  return useQuery({
    queryKey: ["plan", site, "post", id, "log"],
    queryFn: () =>
      answer(api.GET("/api/v1/sites/{site}/posts/{id}/logbook", { params: { path: { site, id } } })),
  });
}

/** Takes the post that a deed has answered with at once: the next deed must see its version, not the one before. */
function useTaken(site: string) {
  const queries = useQueryClient();
  return (post: Post) => queries.setQueryData(["plan", site, "post", post.id], post);
}

export type Deed = "hold" | "release" | "clear" | "unclear" | "shelve" | "publish";

type Seen = { id: number; version: number };

/** Does one deed to a post, as it was seen. */
export function useDeed(site: string, deed: Deed) {
  const refreshed = useRefresh(site);
  const refresh = () => refreshed("plan");
  const taken = useTaken(site);
  return useMutation({
    mutationFn: ({ id, version }: Seen) =>
      answer(
        api.POST(`/api/v1/sites/{site}/posts/{id}/${deed}`, {
          params: { path: { site, id } },
          body: { version },
        }),
      ),
    onSuccess: taken,
    onSettled: refresh,
  });
}

export function useRetime(site: string) {
  const refreshed = useRefresh(site);
  const refresh = () => refreshed("plan");
  const taken = useTaken(site);
  return useMutation({
    mutationFn: ({ id, ...body }: Seen & { date: string; time: string }) =>
      answer(api.POST("/api/v1/sites/{site}/posts/{id}/retime", { params: { path: { site, id } }, body })),
    onSuccess: taken,
    onSettled: refresh,
  });
}

export function useBounds(site: string) {
  const refreshed = useRefresh(site);
  const refresh = () => refreshed("plan");
  const taken = useTaken(site);
  return useMutation({
    mutationFn: ({ id, ...body }: Seen & { notBefore?: string; deadline?: string }) =>
      answer(api.POST("/api/v1/sites/{site}/posts/{id}/bounds", { params: { path: { site, id } }, body })),
    onSuccess: taken,
    onSettled: refresh,
  });
}
