import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { useMutation } from "../../api/mutation";
import { answer, api, type Schemas } from "../../api/client";
import { useRefresh } from "../../api/live";
import { useSettled } from "../../ui/useSettled";

export type Tour = Schemas["Tour"];
export type Summary = Schemas["TourSummary"];
export type Settings = Schemas["TourSettings"];
export type Shape = Schemas["TourShape"];
export type Stop = Schemas["TourStop"];
export type Message = Schemas["TourMessage"];
export type Line = Schemas["TourLine"];
export type Problem = Schemas["TourProblem"];
/** Changes some settings, or what it makes of them as they are by then. */
export type Change = (change: Partial<Settings> | ((settings: Settings) => Partial<Settings>)) => void;
export type How = "shift" | "skip";

/** What each state of a tour is called. */
export const states: Record<Summary["state"], string> = {
  draft: "Draft",
  running: "Running",
  paused: "Paused",
  stopped: "Ended early",
  over: "Over",
};

export function useTours(site: string) {
  return useQuery({
    queryKey: ["plan", site, "tours"],
    queryFn: () => answer(api.GET("/api/v1/sites/{site}/tours", { params: { path: { site } } })),
  });
}

export function useTour(site: string, id: number) {
  return useQuery({
    queryKey: ["plan", site, "tour", id],
    queryFn: () => answer(api.GET("/api/v1/sites/{site}/tours/{id}", { params: { path: { site, id } } })),
  });
}

/** A tour as it would be with some settings; asked for once typing rests. */
export function useLook(site: string, tour: Tour, settings: Settings, enabled: boolean) {
  const settled = useSettled(settings, 250);
  return useQuery({
    queryKey: ["plan", site, "tour", tour.id, "look", tour.version, settled],
    queryFn: () =>
      answer(
        api.POST("/api/v1/sites/{site}/tours/{id}/preview", {
          params: { path: { site, id: tour.id } },
          body: { version: tour.version, settings: settled },
        }),
      ),
    enabled,
    placeholderData: keepPreviousData,
    retry: false,
  });
}

/** A paused tour as it would be on being resumed. */
export function useResuming(site: string, tour: Tour, how: How) {
  return useQuery({
    queryKey: ["plan", site, "tour", tour.id, "resuming", tour.version, how],
    queryFn: () =>
      answer(
        api.POST("/api/v1/sites/{site}/tours/{id}/resume/preview", {
          params: { path: { site, id: tour.id } },
          body: { version: tour.version, how },
        }),
      ),
    retry: false,
  });
}

export function useTourDeeds(site: string) {
  const refresh = useRefresh(site);
  const queries = useQueryClient();
  const onSettled = () => {
    refresh("rules");
    void queries.invalidateQueries({ queryKey: ["plan", site, "tours"] });
  };
  const onSuccess = (tour: Tour) => queries.setQueryData(["plan", site, "tour", tour.id], tour);
  const of = (id: number) => ({ params: { path: { site, id } } });
  type Seen = { id: number; version: number };
  return {
    begin: useMutation({
      mutationFn: (body: { postIds?: number[]; address?: string; like?: number; template?: number }) =>
        answer(api.POST("/api/v1/sites/{site}/tours", { params: { path: { site } }, body })),
      onSettled,
    }),
    save: useMutation({
      mutationFn: ({ id, ...body }: Seen & { settings: Settings }) =>
        answer(api.PUT("/api/v1/sites/{site}/tours/{id}", { ...of(id), body })),
      onSuccess,
      onSettled,
    }),
    launch: useMutation({
      mutationFn: ({ id, version }: Seen) =>
        answer(api.POST("/api/v1/sites/{site}/tours/{id}/launch", { ...of(id), body: { version } })),
      onSuccess,
      onSettled,
    }),
    launchSeveral: useMutation({
      mutationFn: (tours: Seen[]) =>
        answer(
          api.POST("/api/v1/sites/{site}/tours/launch", { params: { path: { site } }, body: { tours } }),
        ),
      onSettled,
    }),
    keep: useMutation({
      mutationFn: (body: { name: string; tour: number }) =>
        answer(api.POST("/api/v1/sites/{site}/tour-templates", { params: { path: { site } }, body })),
      onSuccess: (all) => queries.setQueryData(["tour-templates", site], all),
    }),
    forget: useMutation({
      mutationFn: (id: number) =>
        answer(api.DELETE("/api/v1/sites/{site}/tour-templates/{id}", { params: { path: { site, id } } })),
      onSettled: () => queries.invalidateQueries({ queryKey: ["tour-templates", site] }),
    }),
    pause: useMutation({
      mutationFn: ({ id, version }: Seen) =>
        answer(api.POST("/api/v1/sites/{site}/tours/{id}/pause", { ...of(id), body: { version } })),
      onSuccess,
      onSettled,
    }),
    resume: useMutation({
      mutationFn: ({ id, ...body }: Seen & { how: How }) =>
        answer(api.POST("/api/v1/sites/{site}/tours/{id}/resume", { ...of(id), body })),
      onSuccess,
      onSettled,
    }),
    end: useMutation({
      mutationFn: ({ id, version }: Seen) =>
        answer(api.POST("/api/v1/sites/{site}/tours/{id}/end", { ...of(id), body: { version } })),
      onSuccess,
      onSettled,
    }),
    remove: useMutation({
      mutationFn: ({ id, version }: Seen) =>
        answer(
          api.DELETE("/api/v1/sites/{site}/tours/{id}", {
            params: { path: { site, id }, query: { version } },
          }),
        ),
      onSettled,
    }),
  };
}

/** What tours have in common, kept by name. */
export function useTemplates(site: string) {
  return useQuery({
    queryKey: ["tour-templates", site],
    queryFn: () => answer(api.GET("/api/v1/sites/{site}/tour-templates", { params: { path: { site } } })),
  });
}

/** How many of something, in words: "1 stop", "13 stops". */
export const counted = (n: number, one: string) => `${n} ${n === 1 ? one : `${one}s`}`;

/** What a tour has done so far, in words. */
export function progress(t: Summary): string {
  if (t.state === "draft") return counted(t.stops, "stop");
  const parts = [`${t.gone} sent`];
  if (t.waiting > 0) parts.push(`${t.waiting} to come`);
  if (t.failed > 0) parts.push(`${t.failed} not sent`);
  return parts.join(", ");
}
