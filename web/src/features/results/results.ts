import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useSearchParams } from "react-router";
import { answer, api, type Schemas } from "../../api/client";

export type Results = Schemas["Results"];
export type Row = Schemas["ResultsRow"];
export type Tally = Schemas["ResultsTally"];
export type Hour = Schemas["ResultsHour"];
export type Best = Schemas["ResultsBest"];
export type Day = Schemas["ResultsDay"];
export type By = "post" | "channel" | "rule" | "tour" | "wording" | "line" | "origin";

/** What is asked for: the last days, or a month. */
export type Asked = { by: By; days: number; month?: string; channelId: number; zone?: string };

/** What the address asks for, and how to ask for something else. */
export function useAsked(): [Asked, (change: Partial<Asked>) => void] {
  const [search, setSearch] = useSearchParams();
  const set = (change: Partial<Asked>) => {
    // The address as it is, which may be ahead of what is drawn.
    const next = { ...read(new URLSearchParams(window.location.search)), ...change };
    const said: Record<string, string> = {};
    if (next.by !== "post") said.by = next.by;
    if (next.month) said.month = next.month;
    else if (next.days !== 90) said.days = String(next.days);
    if (next.channelId) said.channel = String(next.channelId);
    if (next.zone) said.zone = next.zone;
    setSearch(said, { replace: true });
  };
  return [read(search), set];
}

function read(search: URLSearchParams): Asked {
  return {
    by: bys.find((b) => b.value === search.get("by"))?.value ?? "post",
    days: Number(search.get("days")) || 90,
    month: search.get("month") ?? undefined,
    channelId: Number(search.get("channel")) || 0,
    zone: search.get("zone") ?? undefined,
  };
}

/** What was brought by what was shared. */
export function useResults(site: string, asked: Asked) {
  return useQuery({
    queryKey: ["plan", site, "results", asked],
    queryFn: () =>
      answer(api.GET("/api/v1/sites/{site}/results", { params: { path: { site }, query: asked } })),
    placeholderData: keepPreviousData,
  });
}

/** The address of what is asked for as a table. */
export function tableOf(site: string, asked: Asked, format: "csv" | "xlsx"): string {
  const said = new URLSearchParams({ format });
  for (const [name, value] of Object.entries(asked)) if (value) said.set(name, String(value));
  return `/api/v1/sites/${site}/tables/results?${said}`;
}

export const bys: { value: By; name: string }[] = [
  { value: "post", name: "Posts" },
  { value: "channel", name: "Channels" },
  { value: "rule", name: "Rules" },
  { value: "tour", name: "Tours" },
  { value: "wording", name: "Wordings" },
  { value: "line", name: "Lines" },
  { value: "origin", name: "Shared by" },
];

/** The periods to choose from: the last days, and the months before this one. */
export function periods(today: string): { value: string; name: string }[] {
  const [year = 0, month = 0] = today.split("-").map(Number);
  const months = Array.from({ length: 12 }, (_, i) => {
    const at = new Date(Date.UTC(year, month - 1 - i, 1));
    return {
      value: at.toISOString().slice(0, 7),
      name: at.toLocaleDateString("en-GB", { month: "long", year: "numeric", timeZone: "UTC" }),
    };
  });
  return [
    { value: "30", name: "The last 30 days" },
    { value: "90", name: "The last 90 days" },
    { value: "365", name: "The last year" },
    ...months,
  ];
}

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
  const of = by === "wording" || by === "line" ? row.of : by;
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

export type Bar = { from: string; until: string; outings: number; clicks: number };

/** Days as bars: one each, or a week each where there are many; then the first may be a part of one. */
export function barsOf(days: Day[]): Bar[] {
  const size = days.length > 120 ? 7 : 1;
  const bars: Bar[] = [];
  for (let i = -((size - (days.length % size)) % size); i < days.length; i += size) {
    const part = days.slice(Math.max(i, 0), i + size);
    bars.push({
      from: part[0]!.date,
      until: part[part.length - 1]!.date,
      outings: part.reduce((n, d) => n + d.outings, 0),
      clicks: part.reduce((n, d) => n + d.clicks, 0),
    });
  }
  return bars;
}
