import { keepPreviousData, useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { useMutation } from "../../api/mutation";
import { useSearchParams } from "react-router";
import { answer, api, type Schemas } from "../../api/client";
import { useRefresh } from "../../api/live";
import { readIds } from "../../ui/ids";
import type { PostsShown } from "../lenses/lenses";

export type Listed = Schemas["ListedPost"];
export type Stage = Listed["stage"];
export type Sort = "changed" | "date" | "title" | "words" | "relevance";

/** The stages in the order of a post's life, as lists name them. */
export const stages: { stage: Stage; name: string; one: string }[] = [
  { stage: "draft", name: "Draft", one: "draft" },
  { stage: "handed in", name: "Waiting for review", one: "waiting for review" },
  { stage: "cleared", name: "On the shelf", one: "on the shelf" },
  { stage: "scheduled", name: "Scheduled", one: "scheduled" },
  { stage: "held", name: "On hold", one: "on hold" },
  { stage: "published", name: "Out", one: "out" },
  { stage: "archived", name: "Archived", one: "archived" },
  { stage: "linked", name: "Link items", one: "link item" },
  { stage: "binned", name: "Bin", one: "in the bin" },
];

/** Those that a list of all posts shows. */
export const shownStages = stages.filter((s) => s.stage !== "binned" && s.stage !== "linked");

export function stageWord(stage: Stage): string {
  return stages.find((s) => s.stage === stage)?.one ?? stage;
}

export type Filter = {
  text: string;
  stage: Stage | "";
  authors: number[];
  categories: number[];
  tags: number[];
  kind: "" | "post" | "page" | "link";
  from: string;
  to: string;
  sort: Sort;
  order: "up" | "down";
};

const empty: Filter = {
  text: "",
  stage: "",
  authors: [],
  categories: [],
  tags: [],
  kind: "",
  from: "",
  to: "",
  sort: "changed",
  order: "down",
};

/** What the list shows, kept in the address, so that it can be shared and gone back to. */
export function useFilter() {
  const [params, setParams] = useSearchParams();
  const filter = read(params);
  function set(change: Partial<Filter>) {
    const now = filterNow();
    const next = { ...now, ...change };
    // A new search is by relevance, and the end of one is not.
    if (change.text !== undefined && change.text !== "" && now.text === "") next.sort = "relevance";
    if (change.text === "" && next.sort === "relevance") next.sort = "changed";
    const said = new URLSearchParams();
    for (const name of Object.keys(empty) as (keyof Filter)[]) {
      const standard = name === "sort" && next.text ? "relevance" : String(empty[name]);
      if (String(next[name]) !== standard) said.set(name === "stage" ? "stages" : name, String(next[name]));
    }
    setParams(said, { replace: change.text !== undefined });
  }
  const narrowed = [
    filter.text,
    filter.authors.length,
    filter.categories.length,
    filter.tags.length,
    filter.kind,
    filter.from,
    filter.to,
  ].some(Boolean);
  return { filter, set, narrowed, clear: () => setParams(filter.stage ? { stages: filter.stage } : {}) };
}

/** The filter in the address as it is, which may be ahead of what is drawn. */
export const filterNow = () => read(new URLSearchParams(window.location.search));

function read(params: URLSearchParams): Filter {
  return {
    text: params.get("text") ?? "",
    stage: (params.get("stages") ?? "") as Filter["stage"],
    authors: readIds(params.get("authors")),
    categories: readIds(params.get("categories")),
    tags: readIds(params.get("tags")),
    kind: (params.get("kind") ?? "") as Filter["kind"],
    from: params.get("from") ?? "",
    to: params.get("to") ?? "",
    sort: (params.get("sort") ?? (params.get("text") ? "relevance" : "changed")) as Sort,
    order: (params.get("order") ?? "down") as Filter["order"],
  };
}

/** What a lens keeps of a filter. */
export function asLens(f: Filter): PostsShown {
  return { ...match(f), sort: f.sort, order: f.order };
}

/** The filter that a lens has kept. */
export function ofLens({ stages = [], ...kept }: PostsShown): Filter {
  return { ...empty, ...kept, stage: stages[0] ?? "" };
}

/** The filter as the API takes it, less its order. */
export function match(f: Filter): Schemas["PostFilter"] {
  return {
    ...(f.text ? { text: f.text } : {}),
    ...(f.stage ? { stages: [f.stage] } : {}),
    ...(f.authors.length ? { authors: f.authors } : {}),
    ...(f.categories.length ? { categories: f.categories } : {}),
    ...(f.tags.length ? { tags: f.tags } : {}),
    ...(f.kind ? { kind: f.kind } : {}),
    ...(f.from ? { from: f.from } : {}),
    ...(f.to ? { to: f.to } : {}),
  };
}

export function usePosts(site: string, filter: Filter) {
  return useInfiniteQuery({
    queryKey: ["plan", site, "posts", filter],
    queryFn: ({ pageParam }) =>
      answer(
        api.GET("/api/v1/sites/{site}/posts", {
          params: {
            path: { site },
            query: {
              ...match(filter),
              sort: filter.sort,
              order: filter.order,
              ...(pageParam ? { cursor: pageParam } : {}),
            },
          },
        }),
      ),
    initialPageParam: "",
    getNextPageParam: (page) => page.next,
    placeholderData: keepPreviousData,
  });
}

/** How many posts of the filter stand in each stage, whatever stage is looked at. */
export function useCounts(site: string, filter: Filter) {
  const wanted = match({ ...filter, stage: "" });
  return useQuery({
    queryKey: ["plan", site, "counts", wanted],
    queryFn: () =>
      answer(api.GET("/api/v1/sites/{site}/posts/counts", { params: { path: { site }, query: wanted } })),
    placeholderData: keepPreviousData,
  });
}

export type BulkDeed = Schemas["BulkInputBody"]["do"];

/** Does one thing to many posts: to those chosen, or to all of a filter. */
export function useBulk(site: string) {
  const refresh = useRefresh(site);
  return useMutation({
    mutationFn: ({
      deed,
      ids,
      all,
    }: {
      deed: BulkDeed;
      ids: number[];
      all?: { filter: Filter; count: number };
    }) =>
      answer(
        api.POST("/api/v1/sites/{site}/posts/bulk", {
          params: { path: { site } },
          body: all ? { do: deed, match: match(all.filter), count: all.count } : { do: deed, ids },
        }),
      ),
    onSettled: () => refresh("plan"),
  });
}

/** Which posts are meant: those with the ids, or all of a list. */
export type Chosen = { ids: number[]; all?: { filter: Filter; count: number } | undefined };
export type Outcome = Schemas["BulkOutcome"];
export type FieldChange = {
  [K in keyof Schemas["EditPostsInputBody"]]?: Schemas["EditPostsInputBody"][K] | undefined;
};

/** Changes fields of many posts at once, as one act. */
export function useEditPosts(site: string) {
  const refresh = useRefresh(site);
  return useMutation({
    mutationFn: ({ chosen: { ids, all }, change }: { chosen: Chosen; change: FieldChange }) =>
      answer(
        api.POST("/api/v1/sites/{site}/posts/edit", {
          params: { path: { site } },
          body: {
            ...said(change),
            ...(all ? { match: match(all.filter), count: all.count } : { ids }),
          },
        }),
      ),
    onSettled: () => refresh("plan"),
  });
}

/** What a list can change of one post in its place; what is absent stays as it is. */
export type QuickChange = {
  title?: string;
  slug?: string;
  categoryId?: number;
  authorId?: number;
  tags?: { all: string[]; added: string[]; removed: string[] };
  at?: { date: string; clock: string };
};

/** Changes one post in its place, all of it or nothing. Contributors write on drafts of their own. */
export function useQuickEdit(site: string, id: number, editor: boolean) {
  const refresh = useRefresh(site);
  return useMutation({
    mutationFn: async ({ version, change }: { version: number; change: QuickChange }) => {
      const { categoryId, authorId, tags, at, ...texts } = change;
      if (!editor) {
        const body = { version, ...texts, ...said({ categoryId, tags: tags?.all }) };
        await answer(api.PATCH("/api/v1/sites/{site}/posts/{id}", { params: { path: { site, id } }, body }));
        return;
      }
      const fields = {
        ...texts,
        at,
        category: categoryId,
        author: authorId,
        addTags: tags?.added,
        removeTags: tags?.removed,
      };
      const { skipped } = await answer(
        api.POST("/api/v1/sites/{site}/posts/edit", {
          params: { path: { site } },
          body: { ids: [id], version, ...said(fields) },
        }),
      );
      if (skipped[0]) throw new Error(skipped[0].why);
    },
    onSettled: () => refresh("plan"),
  });
}

/** An object less what it does not say. */
function said<T extends object>(change: T) {
  return Object.fromEntries(Object.entries(change).filter(([, value]) => value !== undefined)) as {
    [K in keyof T]?: Exclude<T[K], undefined>;
  };
}
