import { useQuery } from "@tanstack/react-query";
import { useMutation } from "../../api/mutation";
import { answer, api, type Schemas } from "../../api/client";
import { useRefresh } from "../../api/live";

export type Webhook = Schemas["Webhook"];
export type HookEvent = Schemas["HookEvent"];
export type Told = Schemas["HookTold"];
type Body = Schemas["WebhookBody"];

export function useWebhooks(site: string) {
  return useQuery({
    queryKey: ["plan", site, "webhooks"],
    queryFn: () => answer(api.GET("/api/v1/sites/{site}/webhooks", { params: { path: { site } } })),
  });
}

/** What a webhook was told, latest first; looked at anew while it is open. */
export function useTold(site: string, id: number) {
  return useQuery({
    queryKey: ["plan", site, "told", id],
    queryFn: () =>
      answer(api.GET("/api/v1/sites/{site}/webhooks/{id}/told", { params: { path: { site, id } } })),
    refetchInterval: 5000,
  });
}

export function useWebhookDeeds(site: string) {
  const refresh = useRefresh(site);
  const onSettled = () => refresh("rules");
  const one = (id: number) => ({ params: { path: { site, id } } });
  const seen = ({ id, version }: { id: number; version: number }) => ({
    params: { path: { site, id }, query: { version } },
  });
  return {
    add: useMutation({
      mutationFn: (body: Body) =>
        answer(api.POST("/api/v1/sites/{site}/webhooks", { params: { path: { site } }, body })),
      onSettled,
    }),
    save: useMutation({
      mutationFn: ({ id, ...body }: Body & { id: number; on: boolean; version: number }) =>
        answer(api.PUT("/api/v1/sites/{site}/webhooks/{id}", { ...one(id), body })),
      onSettled,
    }),
    remove: useMutation({
      mutationFn: (w: Webhook) => answer(api.DELETE("/api/v1/sites/{site}/webhooks/{id}", seen(w))),
      onSettled,
    }),
    rotate: useMutation({
      mutationFn: (w: Webhook) => answer(api.POST("/api/v1/sites/{site}/webhooks/{id}/secret", seen(w))),
      onSettled,
    }),
    test: useMutation({
      mutationFn: ({ id, event }: { id: number; event: string }) =>
        answer(api.POST("/api/v1/sites/{site}/webhooks/{id}/samples", { ...one(id), body: { event } })),
      onSettled,
    }),
    again: useMutation({
      mutationFn: (id: number) => answer(api.POST("/api/v1/sites/{site}/webhooks/told/{id}/again", one(id))),
      onSettled,
    }),
  };
}
