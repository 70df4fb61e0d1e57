import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useMutation } from "../../api/mutation";
import { z } from "zod";
import type { Me } from "../session/session";
import { whole } from "../../ui/schema";
import { answer, api, type Schemas } from "../../api/client";

export type Blog = Schemas["Blog"];

export const blogSchema = z.looseObject({
  title: z.string().refine((t) => t.trim() !== "", "Give the blog a title."),
  postsAPage: whole,
  slug: z.string().refine((s) => s.trim() !== "", "Enter the name that the blog has in its address."),
}) as unknown as z.ZodType<Blog, Blog>;

export function useBlog(site: string) {
  return useQuery({
    queryKey: ["blog", site],
    queryFn: () => answer(api.GET("/api/v1/sites/{site}/blog", { params: { path: { site } } })),
    refetchOnWindowFocus: false,
    staleTime: Infinity,
    gcTime: 0,
  });
}

/** Saves what the blog is called. All that is known of it here is asked for anew: its address may be another. */
export function useSaveBlog(site: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: Blog) =>
      answer(api.PUT("/api/v1/sites/{site}/blog", { params: { path: { site } }, body })),
    onSuccess: (saved) => {
      queries.setQueryData(["blog", saved.slug], saved);
      queries.setQueryData<Me>(["session"], (me) => me && renamed(me, site, saved));
      void queries.invalidateQueries();
    },
  });
}

/** The session with a blog as it is called now: the screens find it by its new name at once. */
function renamed(me: Me, site: string, { slug, title }: Blog): Me {
  return { ...me, sites: me.sites.map((s) => (s.slug === site ? { ...s, slug, title } : s)) };
}

/** Archives the blog, or brings it back. */
export function useArchive(site: string) {
  const queries = useQueryClient();
  const params = { path: { site } };
  return useMutation({
    mutationFn: (archived: boolean) =>
      archived
        ? answer(api.POST("/api/v1/sites/{site}/archive", { params }))
        : answer(api.DELETE("/api/v1/sites/{site}/archive", { params })),
    onSuccess: () => queries.invalidateQueries(),
  });
}

export function useDeleteBlog(site: string) {
  return useMutation({
    mutationFn: (confirm: string) =>
      answer(api.DELETE("/api/v1/sites/{site}", { params: { path: { site }, query: { confirm } } })),
    // Nothing of it may stay on the screens.
    onSuccess: () => window.location.assign("/"),
  });
}
