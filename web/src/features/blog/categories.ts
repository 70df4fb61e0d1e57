import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useMutation } from "../../api/mutation";
import { answer, api, type Schemas } from "../../api/client";

export type Category = Schemas["Category"];

export function useCategories(site: string) {
  return useQuery({
    queryKey: ["categories", site],
    queryFn: () => answer(api.GET("/api/v1/sites/{site}/categories", { params: { path: { site } } })),
  });
}

/** Something done to the categories; everything that names them is asked for anew. */
function useChange<T, R>(site: string, change: (what: T) => Promise<R>) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: change,
    onSettled: () =>
      Promise.all([
        queries.invalidateQueries({ queryKey: ["categories", site] }),
        queries.invalidateQueries({ predicate: (q) => q.queryKey.includes(site) }),
      ]),
  });
}

export const useAddCategory = (site: string) =>
  useChange(site, (name: string) =>
    answer(
      api.POST("/api/v1/sites/{site}/categories", {
        params: { path: { site } },
        body: { name },
      }),
    ),
  );

export const useSaveCategory = (site: string, id: number) =>
  useChange(site, (body: Schemas["CategoryText"]) =>
    answer(api.PUT("/api/v1/sites/{site}/categories/{id}", { params: { path: { site, id } }, body })),
  );

export const useOrderCategories = (site: string) =>
  useChange(site, (order: number[]) =>
    answer(api.PUT("/api/v1/sites/{site}/categories/order", { params: { path: { site } }, body: { order } })),
  );

export const useDefaultCategory = (site: string) =>
  useChange(site, (id: number) =>
    answer(api.PUT("/api/v1/sites/{site}/categories/default", { params: { path: { site } }, body: { id } })),
  );

export const useDeleteCategory = (site: string, id: number) =>
  useChange(site, (query: { into: number; posts: number }) =>
    answer(api.DELETE("/api/v1/sites/{site}/categories/{id}", { params: { path: { site, id }, query } })),
  );
