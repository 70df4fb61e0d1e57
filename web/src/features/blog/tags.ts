import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { useMutation } from "../../api/mutation";
import { answer, api, type Schemas } from "../../api/client";

export type Tag = Schemas["Tag"];

/** A site's tags by name, those of whose name a text is a part. */
export function useTags(site: string, find: string) {
  return useQuery({
    queryKey: ["tags", site, find],
    queryFn: () =>
      answer(
        api.GET("/api/v1/sites/{site}/tags", {
          params: { path: { site }, query: find ? { find } : {} },
        }),
      ),
    placeholderData: keepPreviousData,
  });
}

/** Something done to a tag; everything that names it is asked for anew. */
function useChange<T, R>(site: string, change: (what: T) => Promise<R>) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: change,
    onSettled: () => queries.invalidateQueries({ predicate: (q) => q.queryKey.includes(site) }),
  });
}

export const useRenameTag = (site: string, id: number) =>
  useChange(site, (name: string) =>
    answer(api.PUT("/api/v1/sites/{site}/tags/{id}", { params: { path: { site, id } }, body: { name } })),
  );

export const useDeleteTag = (site: string, id: number) =>
  useChange(site, (query: { into: number; posts: number }) =>
    answer(api.DELETE("/api/v1/sites/{site}/tags/{id}", { params: { path: { site, id }, query } })),
  );
