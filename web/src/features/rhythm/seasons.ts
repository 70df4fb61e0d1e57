import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { useMutation } from "../../api/mutation";
import { z } from "zod";
import { answer, api, type Schemas } from "../../api/client";
import { useRefresh } from "../../api/live";
import { date, named, whole } from "../../ui/schema";
import { useSettled } from "../../ui/useSettled";
import { openingsSchema, type Rhythm } from "./rhythm";

export type Season = Schemas["Season"];
export type Change = { rhythm: Rhythm } | { season: Season };

/** What of a season is typed. */
export const seasonSchema = z.looseObject({
  name: named("Give the season a name."),
  starts: date,
  ends: date,
  priority: whole,
  gap: whole.optional(),
  openings: openingsSchema,
}) as unknown as z.ZodType<Season, Season>;

export function useSeasons(site: string) {
  return useQuery({
    queryKey: ["rhythm", site, "seasons"],
    queryFn: () => answer(api.GET("/api/v1/sites/{site}/seasons", { params: { path: { site } } })),
    refetchOnWindowFocus: false,
    staleTime: Infinity,
    gcTime: 0,
  });
}

/** Takes the seasons that a change has answered with. */
function useTaken(site: string) {
  const queries = useQueryClient();
  const refresh = useRefresh(site);
  return (seasons: Season[]) => {
    queries.setQueryData(["rhythm", site, "seasons"], seasons);
    refresh("rhythm");
  };
}

export function useSaveSeason(site: string) {
  const taken = useTaken(site);
  return useMutation({
    mutationFn: (season: Season) =>
      season.id
        ? answer(
            api.PUT("/api/v1/sites/{site}/seasons/{id}", {
              params: { path: { site, id: season.id } },
              body: season,
            }),
          )
        : answer(api.POST("/api/v1/sites/{site}/seasons", { params: { path: { site } }, body: season })),
    onSuccess: taken,
  });
}

export function useDropSeason(site: string) {
  const taken = useTaken(site);
  return useMutation({
    mutationFn: (id: number) =>
      answer(api.DELETE("/api/v1/sites/{site}/seasons/{id}", { params: { path: { site, id } } })),
    onSuccess: taken,
  });
}

/** What the season would yield from its first date on; asked for once typing rests. */
export function useSeasonPreview(site: string, season: Season) {
  const settled = useSettled(season, 250);
  const query = useQuery({
    queryKey: ["plan", site, "season preview", settled],
    queryFn: () =>
      answer(
        api.POST("/api/v1/sites/{site}/seasons/preview", {
          params: { path: { site }, query: { days: 28 } },
          body: settled,
        }),
      ),
    placeholderData: keepPreviousData,
  });
  return { ...query, current: settled === season && !query.isPlaceholderData };
}

/** How far ahead the comparison looks. */
export const comparedWeeks = 13;

/** The changed rhythm or season held against what is kept. */
export function useWhatIf(site: string, change: Change) {
  const settled = useSettled(change, 400);
  return useQuery({
    queryKey: ["plan", site, "what if", settled],
    queryFn: () =>
      answer(
        api.POST("/api/v1/sites/{site}/rhythm/what-if", {
          params: { path: { site } },
          body: { ...settled, weeks: comparedWeeks },
        }),
      ),
    placeholderData: keepPreviousData,
  });
}

/** A new season, not saved: a copy of the usual rhythm's openings, or of another season. */
export function useNewSeason(site: string, wanted: boolean, of: number) {
  return useQuery({
    queryKey: ["rhythm", site, "new season", of],
    queryFn: () =>
      answer(
        api.GET("/api/v1/sites/{site}/seasons/new", {
          params: { path: { site }, query: of ? { of } : {} },
        }),
      ),
    enabled: wanted,
    refetchOnWindowFocus: false,
    staleTime: Infinity,
    gcTime: 0,
  });
}
