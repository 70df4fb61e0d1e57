import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useMutation } from "../../api/mutation";
import { answer, api, type Schemas } from "../../api/client";
import { useRefresh } from "../../api/live";

export type WholeEdit = Schemas["WholeEdit"];
export type EditChange = Schemas["EditChange"];
export type EditText = Schemas["EditText"];
export type Difference = Schemas["Difference"];
export type Choice = "theirs" | "ours" | "both";

/** The timed edits of a post that wait, or wait for an editor. */
export function useEditsOf(site: string, post: number) {
  return useQuery({
    queryKey: ["plan", site, "edits", "of", post],
    queryFn: () =>
      answer(api.GET("/api/v1/sites/{site}/posts/{id}/edits", { params: { path: { site, id: post } } })),
    enabled: post !== 0,
  });
}

export function useEdit(site: string, id: number) {
  return useQuery({
    queryKey: ["plan", site, "edits", id],
    queryFn: () => answer(api.GET("/api/v1/sites/{site}/edits/{id}", { params: { path: { site, id } } })),
    enabled: id !== 0,
  });
}

export type Wish = { at: { date: string; clock: string }; yearly: boolean; text: EditText };

/** What is done to timed edits by hand. */
export function useEditDeeds(site: string) {
  const refresh = useRefresh(site);
  const queries = useQueryClient();
  const onSettled = () => refresh("rules", "plan");
  const path = (id: number) => ({ params: { path: { site, id } } });
  // The next save must see its version, not the one before.
  const onSuccess = (saved: WholeEdit) => queries.setQueryData(["plan", site, "edits", saved.id], saved);
  return {
    prepare: useMutation({
      mutationFn: ({ post, version, ...wish }: Wish & { post: number; version: number }) =>
        answer(
          api.POST("/api/v1/sites/{site}/posts/{id}/edits", { ...path(post), body: { version, ...wish } }),
        ),
      onSuccess,
      onSettled,
    }),
    save: useMutation({
      mutationFn: ({ id, version, ...wish }: Wish & { id: number; version: number }) =>
        answer(api.PUT("/api/v1/sites/{site}/edits/{id}", { ...path(id), body: { version, ...wish } })),
      onSuccess,
      onSettled,
    }),
    apply: useMutation({
      mutationFn: ({ id, version }: { id: number; version: number }) =>
        answer(api.POST("/api/v1/sites/{site}/edits/{id}/apply", { ...path(id), body: { version } })),
      onSettled,
    }),
    settle: useMutation({
      mutationFn: ({
        id,
        ...body
      }: {
        id: number;
        version: number;
        choices: Choice[];
        at: { date: string; clock: string };
      }) => answer(api.POST("/api/v1/sites/{site}/edits/{id}/settle", { ...path(id), body })),
      onSettled,
    }),
    drop: useMutation({
      mutationFn: ({ id, version }: { id: number; version: number }) =>
        answer(
          api.DELETE("/api/v1/sites/{site}/edits/{id}", {
            params: { path: { site, id }, query: { version } },
          }),
        ),
      onSettled,
    }),
  };
}
