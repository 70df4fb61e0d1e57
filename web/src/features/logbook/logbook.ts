import { useInfiniteQuery, useQueryClient } from "@tanstack/react-query";
import { useMutation } from "../../api/mutation";
import { answer, api, type Schemas } from "../../api/client";
import { useRefresh } from "../../api/live";

export type Line = Schemas["LogbookLine"];
export type By = "" | "engine" | "me";

export const deeds = {
  "": "Everything",
  publish: "Published",
  commit: "Scheduled",
  retime: "Given a time by hand",
  shelve: "Back to the shelf",
  clear: "Cleared",
  unclear: "Off the shelf",
  bounds: "Bounds",
  edit: "Fields changed",
  reorder: "Shelf order",
  rhythm: "Rhythm",
  settings: "Settings",
  pause: "Paused",
  resume: "Resumed",
  move: "Moved",
  hold: "Held by catch-up",
  "close-up": "Closed up",
  archive: "Archived",
  "to draft": "Back to draft",
  bin: "Put into the bin",
  refile: "Moved by a rule",
  "add tag": "Tagged by a rule",
  "put notice": "Notices put up",
  "close comments": "Comments closed",
  warn: "Authors told",
  "ask to read": "To read first",
  republish: "Out again",
  share: "Shared",
  outing: "Outings planned",
  plan: "Outings placed",
  skip: "Outings left out",
  "set aside": "Outings set aside",
  announce: "What is shared by itself",
  "timed edit": "Timed edits",
  "hold edit": "Timed edits on hold",
  prepare: "Timed edits prepared",
  text: "Versions restored",
  import: "Import",
  ask: "A rule asked",
  rule: "Rules",
  arm: "Armed",
  disarm: "Out of action",
  exclude: "Excluded",
  upkeep: "Upkeep of a post",
  channel: "Channels",
  delivery: "Given up",
  comments: "Comments",
  people: "People",
  "hand in": "Handed in",
  "give back": "Given back",
  restore: "Out of the bin",
  delete: "Deleted for good",
  address: "Addresses",
  undo: "Undone",
} as const;

export type Deed = keyof typeof deeds;

export function useLogbook(site: string, deed: Deed, by: By) {
  return useInfiniteQuery({
    queryKey: ["plan", site, "logbook", deed, by],
    queryFn: ({ pageParam }) => {
      const query = {
        ...(deed ? { deed } : {}),
        ...(by ? { by } : {}),
        ...(pageParam ? { cursor: pageParam } : {}),
      };
      return answer(api.GET("/api/v1/sites/{site}/logbook", { params: { path: { site }, query } }));
    },
    initialPageParam: "",
    getNextPageParam: (page) => page.next,
  });
}

export function useUndo(site: string) {
  const queries = useQueryClient();
  const refresh = useRefresh(site);
  return useMutation({
    mutationFn: (id: number) =>
      answer(api.POST("/api/v1/sites/{site}/logbook/{id}/undo", { params: { path: { site, id } } })),
    onSettled: () => {
      refresh("plan", "rules", "rhythm", "site");
      // Forms that are open show what was undone; events leave them alone, since something may be typed into them.
      for (const queryKey of [["rhythm", site], ["settings", site], ["session"]])
        void queries.invalidateQueries({ queryKey });
    },
  });
}
