import { useQuery } from "@tanstack/react-query";
import { answer, api } from "../../api/client";

/** The categories and tags of a site. */
export function useTopics(site: string, wanted = true) {
  return useQuery({
    queryKey: ["topics", site],
    enabled: wanted,
    queryFn: async () => {
      const topics = await answer(api.GET("/api/v1/sites/{site}/topics", { params: { path: { site } } }));
      return { ...topics, tagNames: topics.tags.map((t) => t.name) };
    },
  });
}
