import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { useMutation } from "../../api/mutation";
import { answer, api, type Schemas } from "../../api/client";
import { useRefresh } from "../../api/live";
import { useSettled } from "../../ui/useSettled";

export type Channel = Schemas["Channel"];
export type Channels = Schemas["Channels"];
export type Say = Schemas["Say"];
export type Announcement = Schemas["Announcement"];
export type Draft = Schemas["ComposeBody"];
export type Composed = Schemas["ComposedMessage"];
export type Planned = Schemas["PlannedOuting"];

/** A site's channels, the networks that can be connected, its lists, and what it shares when posts come out. */
export function useChannels(site: string, enabled = true) {
  return useQuery({
    enabled,
    queryKey: ["plan", site, "channels"],
    queryFn: () => answer(api.GET("/api/v1/sites/{site}/channels", { params: { path: { site } } })),
  });
}

/** The outings that wait for their time, and those that were set aside. */
export function useOutings(site: string) {
  return useQuery({
    queryKey: ["plan", site, "outings"],
    queryFn: () => answer(api.GET("/api/v1/sites/{site}/outings", { params: { path: { site } } })),
  });
}

/** A message as each of its channels would show it; asked for once typing rests. */
export function useComposed(site: string, draft: Draft) {
  const settled = useSettled(draft, 250);
  return useQuery({
    queryKey: ["plan", site, "composed", settled],
    queryFn: () =>
      answer(api.POST("/api/v1/sites/{site}/outings/compose", { params: { path: { site } }, body: settled })),
    enabled: settled.channels.length > 0 && settled.text.trim() !== "",
    placeholderData: keepPreviousData,
    retry: false,
  });
}

export function useChannelDeeds(site: string) {
  const refresh = useRefresh(site);
  const onSettled = () => refresh("rules");
  const path = (id: number) => ({ params: { path: { site, id } } });
  return {
    connect: useMutation({
      mutationFn: (body: { kind?: string; address?: string; channelId?: number }) =>
        answer(api.POST("/api/v1/sites/{site}/channels/connect", { params: { path: { site } }, body })),
      onSuccess: ({ url }) => window.location.assign(url),
    }),
    add: useMutation({
      mutationFn: (body: { kind: "webhook" | "hands" | "mail"; name: string; address: string }) =>
        answer(api.POST("/api/v1/sites/{site}/channels", { params: { path: { site } }, body })),
      onSettled,
    }),
    save: useMutation({
      mutationFn: ({ id, ...c }: Channel) =>
        answer(
          api.PUT("/api/v1/sites/{site}/channels/{id}", {
            ...path(id),
            body: {
              name: c.name,
              apart: c.apart,
              aDay: c.aDay,
              quietFrom: c.quietFrom,
              quietTo: c.quietTo,
              zone: c.zone,
              before: c.before,
              after: c.after,
              params: c.params,
              short: c.short,
              version: c.version,
            },
          }),
        ),
      onSettled,
    }),
    pause: useMutation({
      mutationFn: ({ id, ...body }: { id: number; paused: boolean; version: number }) =>
        answer(api.PUT("/api/v1/sites/{site}/channels/{id}/pause", { ...path(id), body })),
      onSettled,
    }),
    remove: useMutation({
      mutationFn: ({ id, token }: { id: number; token: string }) =>
        answer(
          api.DELETE("/api/v1/sites/{site}/channels/{id}", {
            params: { path: { site, id }, query: { token } },
          }),
        ),
      onSettled,
    }),
    copy: useMutation({
      mutationFn: ({ id, ...body }: { id: number; blog: string; rules: boolean }) =>
        answer(api.POST("/api/v1/sites/{site}/channels/{id}/copy", { ...path(id), body })),
    }),
  };
}

/** Who gets the mails of a mailing list. */
export function useSubscribers(site: string, id: number) {
  return useQuery({
    queryKey: ["plan", site, "subscribers", id],
    queryFn: () =>
      answer(api.GET("/api/v1/sites/{site}/channels/{id}/subscribers", { params: { path: { site, id } } })),
  });
}

export function useSubscriberDeeds(site: string, id: number) {
  const queries = useQueryClient();
  const onSettled = () => queries.invalidateQueries({ queryKey: ["plan", site, "subscribers", id] });
  const path = { params: { path: { site, id } } };
  return {
    ask: useMutation({
      mutationFn: (emails: string[]) =>
        answer(api.POST("/api/v1/sites/{site}/channels/{id}/subscribers", { ...path, body: { emails } })),
      onSettled,
    }),
    remove: useMutation({
      mutationFn: (subscriber: number) =>
        answer(
          api.DELETE("/api/v1/sites/{site}/subscribers/{id}", {
            params: { path: { site, id: subscriber } },
          }),
        ),
      onSettled,
    }),
    rate: useMutation({
      mutationFn: (aMinute: number) =>
        answer(api.PUT("/api/v1/sites/{site}/channels/{id}/rate", { ...path, body: { aMinute } })),
      onSettled,
    }),
  };
}

/** What deleting a channel does. */
export function useDeletion(site: string, id: number, open: boolean) {
  return useQuery({
    queryKey: ["plan", site, "channel-deletion", id],
    queryFn: () =>
      answer(api.GET("/api/v1/sites/{site}/channels/{id}/deletion", { params: { path: { site, id } } })),
    enabled: open,
  });
}

type SaySaved = Schemas["SaySaved"];

export function useSaveSay(site: string, post: number) {
  const refresh = useRefresh(site);
  return useMutation({
    mutationFn: (body: SaySaved) =>
      answer(
        post === 0
          ? api.PUT("/api/v1/sites/{site}/announcements", { params: { path: { site } }, body })
          : api.PUT("/api/v1/sites/{site}/posts/{id}/announcements", {
              params: { path: { site, id: post } },
              body,
            }),
      ),
    onSettled: () => refresh("rules"),
  });
}

/** What is shared when one post comes out, and its own wordings. */
export function usePostSay(site: string, post: number) {
  return useQuery({
    queryKey: ["plan", site, "post-say", post],
    queryFn: () =>
      answer(
        api.GET("/api/v1/sites/{site}/posts/{id}/announcements", { params: { path: { site, id: post } } }),
      ),
  });
}

export function useListDeeds(site: string) {
  const refresh = useRefresh(site);
  const onSettled = () => refresh("rules");
  return {
    save: useMutation({
      mutationFn: ({ name, entries }: { name: string; entries: string[] }) =>
        answer(
          api.PUT("/api/v1/sites/{site}/word-lists", {
            params: { path: { site }, query: { name } },
            body: { entries },
          }),
        ),
      onSettled,
    }),
    remove: useMutation({
      mutationFn: (name: string) =>
        answer(
          api.DELETE("/api/v1/sites/{site}/word-lists", { params: { path: { site }, query: { name } } }),
        ),
      onSettled,
    }),
  };
}

type OutingBody = Schemas["OutingBody"];
type TurnPlace = Schemas["TurnPlace"];

export function useOutingDeeds(site: string) {
  const refresh = useRefresh(site);
  const onSettled = () => refresh("rules");
  return {
    plan: useMutation({
      mutationFn: (
        body: OutingBody & {
          also?: number[];
          now?: boolean;
          times?: number;
          days?: number;
          posts?: number[];
        },
      ) => answer(api.POST("/api/v1/sites/{site}/outings", { params: { path: { site } }, body })),
      onSettled,
    }),
    save: useMutation({
      mutationFn: ({ id, ...body }: OutingBody & { id: number; version: number }) =>
        answer(api.PUT("/api/v1/sites/{site}/outings/{id}", { params: { path: { site, id } }, body })),
      onSettled,
    }),
    drop: useMutation({
      mutationFn: ({ id, version }: { id: number; version: number }) =>
        answer(
          api.DELETE("/api/v1/sites/{site}/outings/{id}", {
            params: { path: { site, id }, query: { version } },
          }),
        ),
      onSettled,
    }),
    retry: useMutation({
      mutationFn: ({ id, version }: { id: number; version: number }) =>
        answer(
          api.POST("/api/v1/sites/{site}/outings/{id}/retry", {
            params: { path: { site, id } },
            body: { version },
          }),
        ),
      onSettled,
    }),
    settle: useMutation({
      mutationFn: ({ id, ...body }: { id: number; sent: boolean; url?: string; why?: string }) =>
        answer(
          api.PUT("/api/v1/sites/{site}/outings/{id}/settled", { params: { path: { site, id } }, body }),
        ),
      onSettled,
    }),
    swap: useMutation({
      mutationFn: ({ rule, ...body }: { rule: number; one: TurnPlace; with: TurnPlace }) =>
        answer(
          api.POST("/api/v1/sites/{site}/rules/{id}/turns/swap", {
            params: { path: { site, id: rule } },
            body,
          }),
        ),
      onSettled,
    }),
    take: useMutation({
      mutationFn: ({ rule, ...body }: { rule: number; turn: string; outings: OutingBody[] }) =>
        answer(
          api.POST("/api/v1/sites/{site}/rules/{id}/turns", { params: { path: { site, id: rule } }, body }),
        ),
      onSettled,
    }),
  };
}

/** What a network takes, in a few words. */
export function takes(c: Schemas["Network"] | Channel): string {
  const words = [
    c.graphemes ? `${c.graphemes.toLocaleString("en-GB")} characters` : "any length",
    ...(c.linkCost ? [`a link counts ${c.linkCost}`] : []),
    c.image === "required" ? "always a picture" : c.image === "none" ? "no pictures" : "",
    c.hashtags ? `up to ${c.hashtags} hashtags` : "no hashtags",
    c.replies ? "replies" : "",
  ];
  return words.filter(Boolean).join(" · ");
}
