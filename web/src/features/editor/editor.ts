import { useQuery } from "@tanstack/react-query";
import { answer, api } from "../../api/client";

/** The post as it is when the editor opens; from then on the autosave has it. */
export function useOpenedPost(site: string, id: number) {
  return useQuery({
    queryKey: ["opened", site, id],
    queryFn: () => answer(api.GET("/api/v1/sites/{site}/posts/{id}", { params: { path: { site, id } } })),
    staleTime: Infinity,
    gcTime: 0,
    refetchOnWindowFocus: false,
  });
}
