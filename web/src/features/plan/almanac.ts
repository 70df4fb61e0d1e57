import { useQuery, keepPreviousData } from "@tanstack/react-query";
import { useMutation } from "../../api/mutation";
import { clock } from "../../ui/civil";
import { answer, api, type Schemas } from "../../api/client";
import { useRefresh } from "../../api/live";
import { setServerNow } from "../../ui/siteClock";

export type Almanac = Schemas["Almanac"];
export type AlmanacDay = Schemas["AlmanacDay"];
export type Entry = Schemas["Entry"];
export type Ghost = Schemas["Ghost"];
export type Place = Schemas["Place"];
export type ShelfItem = Schemas["ShelfItem"];
export type DraftItem = Schemas["DraftItem"];

/** How many days the plan shows unless it is told otherwise. */
export const shownDays = 14;

/** The plan of some days; from today where no first one is given. */
export function useAlmanac(site: string, from?: string, days: number = shownDays) {
  return useQuery({
    queryKey: ["plan", site, "almanac", from ?? "today", days],
    queryFn: async () => {
      const query = { days, ...(from ? { from } : {}) };
      const almanac = await answer(
        api.GET("/api/v1/sites/{site}/almanac", { params: { path: { site }, query } }),
      );
      setServerNow(almanac.now.at);
      return { ...almanac, now: { ...almanac.now, received: Date.now() } };
    },
    placeholderData: keepPreviousData,
    refetchInterval: 5 * 60_000,
  });
}

export function useCommit(site: string) {
  const refreshed = useRefresh(site);
  const refresh = () => refreshed("plan");
  return useMutation({
    mutationFn: (body: { token: string; from?: string }) =>
      answer(api.POST("/api/v1/sites/{site}/placement", { params: { path: { site } }, body })),
    onSettled: refresh,
  });
}

export function useOrderShelf(site: string) {
  const refreshed = useRefresh(site);
  const refresh = () => refreshed("plan");
  return useMutation({
    mutationFn: (order: number[]) =>
      answer(api.PUT("/api/v1/sites/{site}/shelf", { params: { path: { site } }, body: { order } })),
    onSettled: refresh,
  });
}

export function useCloseUp(site: string) {
  const refreshed = useRefresh(site);
  const refresh = () => refreshed("plan");
  return useMutation({
    mutationFn: (token: string) =>
      answer(api.POST("/api/v1/sites/{site}/closing", { params: { path: { site } }, body: { token } })),
    onSettled: refresh,
  });
}

/** The placement from a past date on, whose past slots mean publishing at once with those dates. */
export function usePlacementFrom(site: string, from: string, enabled: boolean) {
  return useQuery({
    queryKey: ["plan", site, "placement", from],
    queryFn: () =>
      answer(api.GET("/api/v1/sites/{site}/placement", { params: { path: { site }, query: { from } } })),
    enabled,
    placeholderData: keepPreviousData,
  });
}

/** "The clocks go back: 01:00 to 02:00 occurs twice." */
export function clocksWords({ from, to, back }: NonNullable<AlmanacDay["clocks"]>): string {
  return back
    ? `The clocks go back: ${clock(from)} to ${clock(to)} occurs twice.`
    : `The clocks go forward: ${clock(from)} to ${clock(to)} does not occur.`;
}
