import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { useMutation } from "../../api/mutation";
import { answer, api, type Schemas } from "../../api/client";

export type Import = Schemas["Import"];
export type WholeImport = Schemas["WholeImport"];
export type Setup = Schemas["Setup"];
export type Recipe = Schemas["Recipe"];
export type Look = Schemas["ImportLook"];
export type Line = Schemas["ImportLine"];
export type LineState = Line["state"];
export type TopicWords = Schemas["TopicWords"];
export type HouseLink = Schemas["HouseLink"];

/** How often what is at work is looked at, in milliseconds. */
const often = 700;
/** And what rests between two portions. */
const seldom = 5000;

/** Whether an import goes on by itself. */
export const atWork = (i: Pick<Import, "state">) =>
  i.state === "reading" || i.state === "landing" || i.state === "undoing";

/** Whether an import is over. */
export const isOver = (i: Pick<Import, "state">) =>
  ["done", "cancelled", "failed", "undoing", "undone"].includes(i.state);

const of = (site: string, id: number) => ({ params: { path: { site, id } } });

export function useImports(site: string) {
  return useQuery({
    queryKey: ["plan", site, "imports"],
    queryFn: () => answer(api.GET("/api/v1/sites/{site}/imports", { params: { path: { site } } })),
    refetchInterval: ({ state }) => (state.data?.imports.some((i) => atWork(i) && !i.rests) ? often : false),
  });
}

export function useImport(site: string, id: number) {
  return useQuery({
    queryKey: ["plan", site, "import", id],
    queryFn: () => answer(api.GET("/api/v1/sites/{site}/imports/{id}", of(site, id))),
    refetchInterval: ({ state }) =>
      state.data && atWork(state.data) ? (state.data.rests ? seldom : often) : false,
  });
}

/** What the files hold; a sheet as it is read by a setup. */
export function useLook(site: string, id: number, sheet: Setup["sheet"], wanted: boolean) {
  return useQuery({
    queryKey: ["import look", site, id, sheet],
    queryFn: () =>
      answer(
        api.POST("/api/v1/sites/{site}/imports/{id}/look", { ...of(site, id), body: { sheet: sheet ?? {} } }),
      ),
    enabled: wanted,
    placeholderData: keepPreviousData,
    retry: false,
  });
}

/** What the first lines become by a setup. */
export function usePreview(site: string, id: number, setup: Setup, wanted: boolean) {
  return useQuery({
    queryKey: ["import preview", site, id, setup],
    queryFn: () =>
      answer(api.POST("/api/v1/sites/{site}/imports/{id}/preview", { ...of(site, id), body: { setup } })),
    enabled: wanted,
    placeholderData: keepPreviousData,
    retry: false,
  });
}

/** Lines of an import in a state, a page after a number. */
export function useLines(
  site: string,
  id: number,
  state: LineState | undefined,
  after: number,
  mark: string,
) {
  return useQuery({
    queryKey: ["plan", site, "import lines", id, state, after, mark],
    queryFn: () =>
      answer(
        api.GET("/api/v1/sites/{site}/imports/{id}/lines", {
          params: { path: { site, id }, query: { after, ...(state ? { state } : {}) } },
        }),
      ),
    placeholderData: keepPreviousData,
  });
}

/** What one line becomes. */
export function useLine(site: string, id: number, nr: number | undefined) {
  return useQuery({
    queryKey: ["import line", site, id, nr],
    queryFn: () =>
      answer(
        api.GET("/api/v1/sites/{site}/imports/{id}/line", {
          params: { path: { site, id }, query: { nr: nr! } },
        }),
      ),
    enabled: nr !== undefined,
  });
}

export function useImportDeeds(site: string) {
  const queries = useQueryClient();
  // No event tells of imports: they are nobody's but who looks at them.
  const onSettled = () =>
    Promise.all(
      ["imports", "import", "import lines"].map((of) =>
        queries.invalidateQueries({ queryKey: ["plan", site, of] }),
      ),
    );
  const seen = (i: Import) => ({ ...of(site, i.id), body: { version: i.version } });
  return {
    begin: useMutation({
      mutationFn: (source: string) =>
        answer(api.POST("/api/v1/sites/{site}/imports", { params: { path: { site } }, body: { source } })),
      onSettled,
    }),
    read: useMutation({
      mutationFn: ({ of: i, setup }: { of: Import; setup: Setup }) =>
        answer(
          api.POST("/api/v1/sites/{site}/imports/{id}/read", {
            ...of(site, i.id),
            body: { version: i.version, setup },
          }),
        ),
      onSettled,
    }),
    commit: useMutation({
      mutationFn: ({ id, token }: { id: number; token: string }) =>
        answer(api.POST("/api/v1/sites/{site}/imports/{id}/commit", { ...of(site, id), body: { token } })),
      onSettled,
    }),
    pause: useMutation({
      mutationFn: (i: Import) => answer(api.POST("/api/v1/sites/{site}/imports/{id}/pause", seen(i))),
      onSettled,
    }),
    resume: useMutation({
      mutationFn: (i: Import) => answer(api.POST("/api/v1/sites/{site}/imports/{id}/resume", seen(i))),
      onSettled,
    }),
    cancel: useMutation({
      mutationFn: (i: Import) => answer(api.POST("/api/v1/sites/{site}/imports/{id}/cancel", seen(i))),
      onSettled,
    }),
    hurry: useMutation({
      mutationFn: (id: number) => answer(api.POST("/api/v1/sites/{site}/imports/{id}/hurry", of(site, id))),
      onSettled,
    }),
    trigger: useMutation({
      mutationFn: (i: Import) => answer(api.POST("/api/v1/sites/{site}/imports/{id}/trigger", seen(i))),
      onSettled,
    }),
    keep: useMutation({
      mutationFn: (days: number) =>
        answer(api.PUT("/api/v1/sites/{site}/import-days", { params: { path: { site } }, body: { days } })),
      onSettled,
    }),
    remove: useMutation({
      mutationFn: (id: number) => answer(api.DELETE("/api/v1/sites/{site}/imports/{id}", of(site, id))),
      onSettled,
    }),
  };
}

export function useKeptSetups(site: string) {
  return useQuery({
    queryKey: ["plan", site, "import setups"],
    queryFn: () => answer(api.GET("/api/v1/sites/{site}/import-setups", { params: { path: { site } } })),
  });
}

export function useSetupDeeds(site: string) {
  const kept = useKeptSetups(site);
  const onSettled = () => void kept.refetch();
  const named = (name: string) => ({ params: { path: { site }, query: { name } } });
  return {
    kept,
    save: useMutation({
      mutationFn: ({ name, setup }: { name: string; setup: Setup }) =>
        answer(api.PUT("/api/v1/sites/{site}/import-setups", { ...named(name), body: setup })),
      onSettled,
    }),
    drop: useMutation({
      mutationFn: (name: string) => answer(api.DELETE("/api/v1/sites/{site}/import-setups", named(name))),
      onSettled,
    }),
  };
}

/** Where lines of an import are downloaded as a table. */
export const linesTable = (site: string, id: number, state?: LineState) =>
  `/api/v1/sites/${site}/imports/${id}/table${state ? `?state=${state}` : ""}`;

/** What an import's state is called, with a mark of its own. */
export const said: Record<Import["state"], { mark: string; name: string }> = {
  collecting: { mark: "…", name: "Being set up" },
  reading: { mark: "↻", name: "Being read" },
  proposed: { mark: "?", name: "Waiting for you" },
  landing: { mark: "↓", name: "Being brought in" },
  paused: { mark: "‖", name: "Paused" },
  done: { mark: "✓", name: "Done" },
  cancelled: { mark: "×", name: "Cancelled" },
  failed: { mark: "!", name: "Failed" },
  undoing: { mark: "↻", name: "Being undone" },
  undone: { mark: "↶", name: "Undone" },
};

/** What a line's state is called. */
export const lineSaid: Record<LineState, string> = {
  ready: "Become posts",
  update: "Change their posts",
  left: "Left out",
  same: "Unchanged",
  clash: "Changed on both sides",
  landed: "Brought in",
  updated: "Changed",
  undone: "Undone",
  kept: "Kept",
};
