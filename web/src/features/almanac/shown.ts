import { readIds, writeIds } from "../../ui/ids";
import { isRealDate } from "../../ui/civil";
import type { PlanShown } from "../lenses/lenses";
import { kinds, statuses, type Filter } from "./filter";
import { readSort } from "./sort";
import { spans, usualSpan, views, zooms, type View } from "./view";

/** What is chosen and shown, as the address keeps it. */
export type Shown = {
  from?: string | undefined;
  view?: View | undefined;
  span?: number | undefined;
  zoom?: number | undefined;
  post?: number | undefined;
  day?: string | undefined;
  mark?: string | undefined;
  /** What the list is sorted by. */
  sort?: string | undefined;
} & { [K in keyof Filter]?: string | undefined };

/** No filter, as the address keeps it. */
export const noFilter = { authors: "", categories: "", status: "", kind: "", channel: "" } satisfies Shown;

/** Looks at what a lens shows; all that it does not say is as usual. */
export function throughLens(lens: PlanShown): Shown {
  const { authors = [], categories = [], ...rest } = lens;
  return {
    ...noFilter,
    view: undefined,
    span: undefined,
    ...rest,
    authors: writeIds(authors),
    categories: writeIds(categories),
  };
}

/** What an address shows; what cannot be read is as usual. */
export function readShown(search: URLSearchParams) {
  const text = (name: string) => search.get(name) ?? "";
  const date = (name: string) => (isRealDate(text(name)) ? text(name) : undefined);
  return {
    from: date("from"),
    view: views.find((v) => v.view === search.get("view"))?.view ?? "tape",
    span: spans.find((s) => String(s.value) === search.get("span"))?.value ?? usualSpan,
    zoom: zooms.find((z) => String(z.value) === search.get("zoom"))?.value ?? 0,
    post: Number(search.get("post")) || undefined,
    mark: search.get("mark") ?? undefined,
    day: date("day"),
    sort: readSort(text("sort")),
    filter: {
      authors: readIds(search.get("authors")),
      categories: readIds(search.get("categories")),
      status: text("status"),
      kind: text("kind"),
      channel: text("channel"),
    },
  };
}

export type Read = ReturnType<typeof readShown>;

const usual: Record<string, string> = { view: "tape", span: String(usualSpan), zoom: "0", sort: "time" };

/** What the address shows, which may be ahead of what is drawn. */
export const shownNow = () => readShown(new URLSearchParams(window.location.search));

/** What a lens keeps of what is shown. */
export function asLens({ view, span, filter }: Read): PlanShown {
  const { authors, categories, channel } = filter;
  const status = statuses.find((s) => s.value === filter.status)?.value;
  const kind = kinds.find((k) => k.value === filter.kind)?.value;
  // Only what is said: an empty status is none of the known ones.
  return {
    view,
    span,
    authors,
    categories,
    ...(status && { status }),
    ...(kind && { kind }),
    ...(channel && { channel }),
  };
}

/** Changes what is chosen or shown. Another stretch or view is a step that one can go back from. */
export function useShown(setSearch: (next: URLSearchParams, options: { replace: boolean }) => void) {
  return (changes: Shown) => {
    const next = new URLSearchParams(window.location.search);
    for (const key of ["post", "day", "mark"]) next.delete(key);
    for (const [key, value] of Object.entries(changes)) {
      if (value === undefined || value === "" || usual[key] === String(value)) next.delete(key);
      else next.set(key, String(value));
    }
    const step = "from" in changes || "view" in changes || "span" in changes;
    setSearch(next, { replace: !step });
  };
}
