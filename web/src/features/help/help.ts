import { useQuery } from "@tanstack/react-query";
import { useSyncExternalStore } from "react";
import { answer, api, type Schemas } from "../../api/client";

/** A place in the guide: a page, or a section of one. */
export type Place = { page: string; section?: string | undefined };

// The guide stays open beside the work while one goes from screen to screen.
let open: Place | undefined;
const listeners = new Set<() => void>();

/** Opens the guide at a place, or closes it. */
export function showGuide(place: Place | undefined) {
  open = place;
  for (const listen of listeners) listen();
}

export function useGuide(): Place | undefined {
  return useSyncExternalStore(
    (listen) => {
      listeners.add(listen);
      return () => listeners.delete(listen);
    },
    () => open,
  );
}

export type Section = Schemas["GuideSection"];

/** Sections of the guide in which words occur. */
export function useGuideSearch(words: string) {
  return useQuery({
    queryKey: ["guide", "find", words],
    queryFn: () => answer(api.GET("/api/v1/guide", { params: { query: { words } } })),
    enabled: words.length > 2,
    placeholderData: (before) => before,
    staleTime: Infinity,
  });
}

export function useGuidePage(page: string) {
  return useQuery({
    queryKey: ["guide", page],
    queryFn: () => answer(api.GET("/api/v1/guide/{page}", { params: { path: { page } } })),
    staleTime: Infinity,
  });
}

export function useGuidePages() {
  return useQuery({
    queryKey: ["guide"],
    queryFn: () => answer(api.GET("/api/v1/guide", { params: { query: {} } })),
    staleTime: Infinity,
  });
}

const places: Record<string, Place> = {
  "": { page: "planning-a-month" },
  posts: { page: "guide", section: "posts-finding-and-dealing-with-many" },
  write: { page: "guide", section: "writing" },
  overdue: { page: "planning-a-month", section: "when-nothing-came-out" },
  rhythm: { page: "how-times-are-chosen" },
  rules: { page: "rules" },
  upkeep: { page: "upkeep" },
  tours: { page: "tours" },
  results: { page: "results" },
  notice: { page: "upkeep", section: "told-before" },
  channels: { page: "channels" },
  forecast: { page: "forecast" },
  logbook: { page: "guide", section: "the-logbook" },
  comments: { page: "guide", section: "readers-comments" },
  import: { page: "bringing-it-in" },
  pictures: { page: "guide", section: "pictures" },
  people: { page: "guide", section: "people" },
  account: { page: "guide", section: "people" },
};

const settings: Record<string, Place> = {
  blog: { page: "your-own-blog", section: "what-the-blog-is-called" },
  comments: { page: "guide", section: "readers-comments" },
  look: { page: "your-own-blog", section: "look-and-menu" },
  menu: { page: "your-own-blog", section: "look-and-menu" },
  categories: { page: "your-own-blog", section: "categories" },
  tags: { page: "your-own-blog", section: "tags" },
  channels: { page: "rules", section: "reshare-rules" },
  plan: { page: "planning-a-month", section: "ready-for-the-day" },
  export: { page: "taking-it-out" },
};

/** What the guide says about the screen at an address. */
export function placeOf(pathname: string): Place {
  const [, , screen = "", part = ""] = pathname.split("/");
  if (screen === "settings") return settings[part] ?? { page: "your-own-blog" };
  return places[screen] ?? { page: "guide" };
}
