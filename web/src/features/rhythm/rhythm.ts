import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { useMutation } from "../../api/mutation";
import { z } from "zod";
import { answer, api, type Schemas } from "../../api/client";
import { useRefresh } from "../../api/live";
import { dateIfAny, named, timeOfDay, whole } from "../../ui/schema";
import { useSettled } from "../../ui/useSettled";

export type Rhythm = Schemas["Rhythm"];
export type Rest = Schemas["Rest"];
export type Opening = Schemas["Opening"];
export type RhythmDay = Schemas["RhythmDay"];

const opening = z.looseObject({
  from: timeOfDay,
  to: timeOfDay.optional(),
  count: whole.optional(),
  sway: whole.optional(),
  everyWeeks: whole.optional(),
  anchor: dateIfAny,
});

/** What of openings is typed. What is wrong with them besides, the preview says. */
export const openingsSchema = z.array(opening) as unknown as z.ZodType<Opening[], Opening[]>;

/** What of a rhythm is typed. */
export const rhythmSchema = z.looseObject({
  name: named("Give the rhythm a name."),
  gap: whole,
  starts: dateIfAny,
  ends: dateIfAny,
  openings: openingsSchema,
}) as unknown as z.ZodType<Rhythm, Rhythm>;

/** The rhythm as a form holds it: what may be left out is there, empty. */
export function asForm(rhythm: Rhythm): Rhythm {
  return { ...rhythm, starts: rhythm.starts, ends: rhythm.ends, rests: rhythm.rests ?? [] };
}

/** How many days the preview shows: four weeks. */
const previewDays = 28;

export function useRhythm(site: string) {
  return useQuery({
    queryKey: ["rhythm", site],
    queryFn: () => answer(api.GET("/api/v1/sites/{site}/rhythm", { params: { path: { site } } })),
    refetchOnWindowFocus: false,
    staleTime: Infinity,
    gcTime: 0,
  });
}

/** What the rhythm would yield, as it stands in the form; asked for once typing rests. */
export function usePreview(site: string, rhythm: Rhythm) {
  const settled = useSettled(rhythm, 250);
  const query = useQuery({
    queryKey: ["plan", site, "preview", settled],
    queryFn: () =>
      answer(
        api.POST("/api/v1/sites/{site}/rhythm/preview", {
          params: { path: { site }, query: { days: previewDays } },
          body: settled,
        }),
      ),
    placeholderData: keepPreviousData,
  });
  return { ...query, current: settled === rhythm && !query.isPlaceholderData };
}

export function useSaveRhythm(site: string) {
  const queries = useQueryClient();
  const refresh = useRefresh(site);
  return useMutation({
    mutationFn: (body: Rhythm) =>
      answer(api.PUT("/api/v1/sites/{site}/rhythm", { params: { path: { site } }, body })),
    onSuccess: (saved) => {
      queries.setQueryData(["rhythm", site], saved);
      refresh("rhythm");
    },
  });
}

/** What openings and patterns are when they are new. */
export function useBeginning(site: string) {
  return useQuery({
    queryKey: ["beginning", site],
    queryFn: () => answer(api.GET("/api/v1/sites/{site}/rhythm/opening", { params: { path: { site } } })),
    staleTime: Infinity,
  }).data;
}

export type Beginning = Schemas["Beginning"];

/** A new opening; its key names it for good. */
export function newOpening({ opening }: Beginning): Opening {
  return { ...opening, key: `opening-${anotherSeed().toString(36)}` };
}

/** The opening as the other kind, keeping what both have. */
export function asKind(opening: Opening, kind: Opening["kind"], begin: Beginning): Opening {
  const { to, count, sway } = kind === "time" ? begin.time : begin.window;
  return { ...opening, kind, to, count, sway };
}

/** A seed that no one has drawn before, most likely. */
export function anotherSeed(): number {
  const [high = 0, low = 0] = crypto.getRandomValues(new Uint32Array(2));
  return (high % 2 ** 21) * 2 ** 32 + low;
}

/** Above this, a calendar file is refused before it is sent; the server has the same limit. */
const mostBytes = 2 * 2 ** 20;

/** Reads the rest days of a calendar file. Nothing is saved. */
export function useReadRests(site: string) {
  return useMutation({
    mutationFn: async (file: File) => {
      if (file.size > mostBytes)
        throw new Error(
          `The file has ${Math.ceil(file.size / 2 ** 20)} MB; a calendar of rest days has at most 2. Export fewer years of it.`,
        );
      return answer(
        api.POST("/api/v1/sites/{site}/rests/read", {
          params: { path: { site } },
          body: { calendar: await file.text() },
        }),
      );
    },
  });
}
