import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { useMutation } from "../../api/mutation";
import { answer, api, type Schemas } from "../../api/client";

export type Appearance = Schemas["Appearance"];
export type MenuItem = Schemas["MenuItem"];
export type Look = Appearance["look"];

export function useAppearance(site: string) {
  return useQuery({
    queryKey: ["appearance", site],
    queryFn: () => answer(api.GET("/api/v1/sites/{site}/appearance", { params: { path: { site } } })),
    refetchOnWindowFocus: false,
    staleTime: Infinity,
    gcTime: 0,
  });
}

export function useSaveAppearance(site: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: ({ look, accent, whole, menu, version }: Appearance) =>
      answer(
        api.PUT("/api/v1/sites/{site}/appearance", {
          params: { path: { site } },
          body: { look, accent, whole, menu, version },
        }),
      ),
    onSuccess: (saved) => {
      queries.setQueryData(["appearance", site], saved);
      // The settings of a blog have one version.
      void queries.invalidateQueries({ queryKey: ["blog", site] });
      void queries.invalidateQueries({ queryKey: ["settings", site] });
    },
  });
}

/** How readers see an accent by day and by night. */
export function useShades(site: string, look: Look, accent: string) {
  return useQuery({
    queryKey: ["shades", site, look, accent],
    queryFn: () =>
      answer(
        api.GET("/api/v1/sites/{site}/appearance/shades", {
          params: { path: { site }, query: { look, accent } },
        }),
      ),
    placeholderData: keepPreviousData,
    retry: false,
    staleTime: Infinity,
  });
}

/** The blog's front page as readers get it. */
export function useFrontPage(site: string) {
  return useQuery({
    queryKey: ["front page", site],
    queryFn: async () => {
      const got = await fetch(`/blog/${encodeURIComponent(site)}/`);
      if (!got.ok) throw new Error("The blog’s front page can’t be shown just now.");
      return got.text();
    },
    gcTime: 0,
  });
}
