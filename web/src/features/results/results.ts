import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { answer, api, type Schemas } from "../../api/client";

export type Results = Schemas["Results"];
export type Row = Schemas["ResultsRow"];
export type Tally = Schemas["ResultsTally"];
export type Hour = Schemas["ResultsHour"];
export type By = "post" | "channel" | "rule" | "tour" | "wording" | "origin";

export type Asked = { by: By; days: number; channelId: number };

/** What was brought by what was shared. */
export function useResults(site: string, asked: Asked) {
  return useQuery({
    queryKey: ["plan", site, "results", asked],
    queryFn: () =>
      answer(api.GET("/api/v1/sites/{site}/results", { params: { path: { site }, query: asked } })),
    placeholderData: keepPreviousData,
  });
}

export const bys: { value: By; name: string }[] = [
  { value: "post", name: "Posts" },
  { value: "channel", name: "Channels" },
  { value: "rule", name: "Rules" },
  { value: "tour", name: "Tours" },
  { value: "wording", name: "Wordings" },
  { value: "origin", name: "Shared by" },
];

export const periods: { value: string; name: string }[] = [
  { value: "30", name: "30 days" },
  { value: "90", name: "90 days" },
  { value: "365", name: "A year" },
];

const origins: Record<string, string> = {
  rule: "Rules",
  hand: "Hand",
  publication: "Coming out",
  tour: "Tours",
};

/** What a row is called. */
export function nameOf(row: Row, by: By): string {
  if (by === "origin") return origins[row.name] ?? row.name;
  if (by === "wording") return `${row.name}: wording ${row.n}`;
  return row.name || "Untitled";
}

/** Where a row leads to; nowhere: nothing. */
export function leadsTo(site: string, row: Row, by: By): string | undefined {
  const of = by === "wording" ? row.of : by;
  if (of === "post") return `/${site}/write/${row.id}`;
  if (of === "rule") return `/${site}/rules/${row.id}`;
  if (of === "tour") return `/${site}/tours/${row.id}`;
  if (of === "channel") return `/${site}/channels`;
  return undefined;
}

export const one = (n: number) => n.toFixed(1);

/** By how much clicks an outing changed against the period before, in words; nothing where that had no outings. */
export function change(now: Tally, before: Tally): string {
  if (before.outings === 0 || now.outings === 0) return "";
  const by = Math.round(
    (now.clicks / now.outings / Math.max(before.clicks / before.outings, 0.01) - 1) * 100,
  );
  return by === 0 ? "as before" : by > 0 ? `${by} % more` : `${-by} % fewer`;
}
