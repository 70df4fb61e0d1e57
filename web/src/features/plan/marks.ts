import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api, type Schemas } from "../../api/client";
import { shownDays } from "./almanac";

export type DeedMark = Schemas["Mark"];

/** The layers of the tape beside publications: each has kinds of deeds, a mark and a word. */
export const layers = {
  outings: {
    name: "Outings",
    kinds: ["share", "skip", "set aside"],
    mark: "◆",
    color: "text-share",
    bar: "bg-share",
  },
  republications: {
    name: "Republications",
    kinds: ["republish"],
    mark: "↻",
    color: "text-again",
    bar: "bg-again",
  },
  edits: {
    name: "Timed edits",
    kinds: ["timed edit", "hold edit"],
    mark: "✎",
    color: "text-edit",
    bar: "bg-edit",
  },
  expiries: {
    name: "Expiries",
    kinds: [
      "archive",
      "to draft",
      "bin",
      "refile",
      "add tag",
      "put notice",
      "close comments",
      "delete",
      "ask",
    ],
    mark: "▽",
    color: "text-away",
    bar: "bg-away",
  },
} as const;

export type Layer = keyof typeof layers;

export const layerNames = Object.keys(layers) as Layer[];

export function layerOf(kind: string): Layer {
  return layerNames.find((l) => (layers[l].kinds as readonly string[]).includes(kind)) ?? "expiries";
}

/** Outings, republications and expiries of the shown days: done, and to come. */
export function useMarks(site: string, from?: string, days: number = shownDays) {
  return useQuery({
    queryKey: ["plan", site, "marks", from ?? "today", days],
    queryFn: () =>
      answer(
        api.GET("/api/v1/sites/{site}/marks", {
          params: { path: { site }, query: { days, ...(from ? { from } : {}) } },
        }),
      ),
    placeholderData: keepPreviousData,
  });
}

const kept = "dapper-layers";

/** Which layers are on; remembered in this browser. */
export function useLayers(): [Layer[], (layer: Layer) => void] {
  const [on, setOn] = useState<Layer[]>(() => {
    const text = window.localStorage.getItem(kept);
    return text === null ? layerNames : layerNames.filter((l) => text.split(",").includes(l));
  });
  function toggle(layer: Layer) {
    const next = on.includes(layer) ? on.filter((l) => l !== layer) : [...on, layer];
    window.localStorage.setItem(kept, next.join(","));
    setOn(next);
  }
  return [on, toggle];
}
