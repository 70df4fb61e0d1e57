import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useMutation } from "../../api/mutation";
import { answer, api, type Schemas } from "../../api/client";
import { useRefresh } from "../../api/live";

export type Remark = Schemas["Remark"];
export type Wish = { date: string; time: string };

/** What the people of a blog say about a post. */
export function useRemarks(site: string, post: number) {
  return useQuery({
    queryKey: ["plan", site, "remarks", post],
    queryFn: () =>
      answer(api.GET("/api/v1/sites/{site}/posts/{id}/remarks", { params: { path: { site, id: post } } })),
  });
}

export function useRemarkDeeds(site: string, post: number) {
  const queries = useQueryClient();
  const refresh = useRefresh(site);
  const onSuccess = (all: Remark[]) => {
    queries.setQueryData(["plan", site, "remarks", post], all);
    void queries.invalidateQueries({ queryKey: ["plan", site, "status"] });
  };
  const path = { site, id: post };
  return {
    add: useMutation({
      mutationFn: (body: { body: string; quote?: string; wish?: Wish }) =>
        answer(api.POST("/api/v1/sites/{site}/posts/{id}/remarks", { params: { path }, body })),
      onSuccess,
    }),
    resolve: useMutation({
      mutationFn: ({ remark, resolved }: { remark: number; resolved: boolean }) =>
        answer(
          api.POST("/api/v1/sites/{site}/posts/{id}/remarks/{remark}/resolve", {
            params: { path: { ...path, remark } },
            body: { resolved },
          }),
        ),
      onSuccess,
    }),
    reply: useMutation({
      mutationFn: ({ remark, yes }: { remark: number; yes: boolean }) =>
        answer(
          api.POST("/api/v1/sites/{site}/posts/{id}/remarks/{remark}/answer", {
            params: { path: { ...path, remark } },
            body: { yes },
          }),
        ),
      onSuccess: (all) => {
        onSuccess(all);
        refresh("plan");
      },
    }),
    remove: useMutation({
      mutationFn: (remark: number) =>
        answer(
          api.DELETE("/api/v1/sites/{site}/posts/{id}/remarks/{remark}", {
            params: { path: { ...path, remark } },
          }),
        ),
      onSuccess,
    }),
  };
}

const longest = 60;

/** How a text's paragraphs begin, each once, to choose one by. */
export function paragraphsOf(body: string): { quote: string; name: string }[] {
  const seen = new Set<string>();
  const all: { quote: string; name: string }[] = [];
  for (const part of body.split(/\n\s*\n/)) {
    const quote = [...part.trim().slice(0, 1000)].slice(0, 250).join("");
    if (quote === "" || seen.has(quote)) continue;
    seen.add(quote);
    const line = quote.replaceAll(/\s+/g, " ");
    all.push({ quote, name: line.length > longest ? `${line.slice(0, longest)}…` : line });
  }
  return all;
}
