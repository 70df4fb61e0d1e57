import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useMutation } from "../../api/mutation";
import { z } from "zod";
import { answer, api, type Schemas } from "../../api/client";
import { useRefresh } from "../../api/live";
import { whole } from "../../ui/schema";

export type Settings = Schemas["Settings"];

/** What of the settings is typed. */
export const settingsSchema = z.looseObject({
  catchUpMinutes: whole,
  binDays: whole.optional(),
  logDays: whole.optional(),
  caps: z.looseObject({
    day: whole.optional(),
    authorDay: whole.optional(),
    authorWeek: whole.optional(),
    categoryDays: whole.optional(),
  }),
}) as unknown as z.ZodType<Settings, Settings>;

export function useSettings(site: string) {
  return useQuery({
    queryKey: ["settings", site],
    queryFn: () => answer(api.GET("/api/v1/sites/{site}/settings", { params: { path: { site } } })),
    refetchOnWindowFocus: false,
    staleTime: Infinity,
    gcTime: 0,
  });
}

export function useSaveSettings(site: string) {
  const queries = useQueryClient();
  const refresh = useRefresh(site);
  return useMutation({
    mutationFn: (body: Settings) =>
      answer(api.PUT("/api/v1/sites/{site}/settings", { params: { path: { site } }, body })),
    onSuccess: (saved) => {
      queries.setQueryData(["settings", site], saved);
      refresh("site");
      void queries.invalidateQueries({ queryKey: ["session"] });
    },
  });
}

export const catchUps: { value: Settings["catchUp"]; name: string; hint: string }[] = [
  { value: "at once", name: "Publish at once", hint: "All of them, as soon as publishing works again." },
  {
    value: "at once if fresh",
    name: "At once if fresh, else hold",
    hint: "What is not too old comes out; the rest waits for you.",
  },
  { value: "spread out", name: "Spread out", hint: "Oldest first, each as early as the gap allows." },
  { value: "next slots", name: "Next free slots", hint: "Each goes into the next free slot of the rhythm." },
  { value: "hold", name: "Hold for me", hint: "Nothing comes out late without you." },
];

export const orders: { value: Settings["shelfOrder"]; name: string }[] = [
  { value: "hand", name: "By hand" },
  { value: "oldest", name: "Oldest first" },
  { value: "newest", name: "Newest first" },
  { value: "shuffled", name: "Shuffled" },
  { value: "categories", name: "One of each category in turn" },
];

/** What another zone would mean for planned posts. */
export function useZoneChange(site: string, zone: string) {
  return useQuery({
    queryKey: ["plan", site, "zone", zone],
    queryFn: () =>
      answer(
        api.GET("/api/v1/sites/{site}/settings/zone-change", {
          params: { path: { site }, query: { zone } },
        }),
      ),
  });
}
