import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useMutation } from "../../api/mutation";
import { answer, api, type Schemas } from "../../api/client";

export type Lens = Schemas["Lens"];
export type PlanShown = Schemas["PlanShown"];
export type PostsShown = Schemas["PostsShown"];

/** What a lens shows: of the plan, or of the list of posts. */
export type LensShown = { plan: PlanShown } | { posts: PostsShown };

/** Named views of the plan and of the list of posts that one keeps for oneself. */
export function useLenses(site: string) {
  return useQuery({
    queryKey: ["lenses", site],
    queryFn: () => answer(api.GET("/api/v1/sites/{site}/lenses", { params: { path: { site } } })),
    staleTime: 60_000,
  });
}

export function useKeepLens(site: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: { name: string } & LensShown) =>
      answer(api.PUT("/api/v1/sites/{site}/lenses", { params: { path: { site } }, body })),
    onSuccess: (lenses) => queries.setQueryData(["lenses", site], lenses),
  });
}

export function useDropLens(site: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (id: number) =>
      answer(api.DELETE("/api/v1/sites/{site}/lenses/{id}", { params: { path: { site, id } } })),
    onSettled: () => void queries.invalidateQueries({ queryKey: ["lenses", site] }),
  });
}
