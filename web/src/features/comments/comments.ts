import { keepPreviousData, useInfiniteQuery, useQuery, useQueryClient } from "@tanstack/react-query";
import { useMutation } from "../../api/mutation";
import { answer, api, type Schemas } from "../../api/client";
import { useRefresh } from "../../api/live";

export type Comment = Schemas["Comment"];
export type Status = Comment["status"];
export type Commenting = Schemas["Commenting"];

/** A site's comments of one status, latest first. */
export function useComments(site: string, status: Status, find: string) {
  return useInfiniteQuery({
    queryKey: ["plan", site, "comments", status, find],
    queryFn: ({ pageParam }) =>
      answer(
        api.GET("/api/v1/sites/{site}/comments", {
          params: {
            path: { site },
            query: { status, ...(find ? { find } : {}), ...(pageParam ? { below: pageParam } : {}) },
          },
        }),
      ),
    initialPageParam: 0,
    getNextPageParam: (page) => page.next,
    placeholderData: keepPreviousData,
  });
}

/** How many comments wait for approval. */
export function useWaiting(site: string): number {
  const waiting = useQuery({
    queryKey: ["plan", site, "comments", "waiting"],
    queryFn: () =>
      answer(
        api.GET("/api/v1/sites/{site}/comments", { params: { path: { site }, query: { status: "held" } } }),
      ),
  });
  return waiting.data?.counts.held ?? 0;
}

/** Says where comments stand from now on. */
export function useDecide(site: string) {
  const refresh = useRefresh(site);
  return useMutation({
    mutationFn: (body: { ids: number[]; to: Status }) =>
      answer(api.PUT("/api/v1/sites/{site}/comments", { params: { path: { site } }, body })),
    onSettled: () => refresh("comments"),
  });
}

export function useAnswer(site: string, id: number) {
  const refresh = useRefresh(site);
  return useMutation({
    mutationFn: (text: string) =>
      answer(
        api.POST("/api/v1/sites/{site}/comments/{id}/answer", {
          params: { path: { site, id } },
          body: { text },
        }),
      ),
    onSettled: () => refresh("comments"),
  });
}

export function useCommenting(site: string) {
  return useQuery({
    queryKey: ["commenting", site],
    queryFn: () => answer(api.GET("/api/v1/sites/{site}/commenting", { params: { path: { site } } })),
    refetchOnWindowFocus: false,
    staleTime: Infinity,
    gcTime: 0,
  });
}

export function useSaveCommenting(site: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: Commenting) =>
      answer(api.PUT("/api/v1/sites/{site}/commenting", { params: { path: { site } }, body })),
    onSuccess: (saved) => queries.setQueryData(["commenting", site], saved),
  });
}
