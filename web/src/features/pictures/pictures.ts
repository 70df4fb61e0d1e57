import { keepPreviousData, useInfiniteQuery, useQuery, useQueryClient } from "@tanstack/react-query";
import { useMutation } from "../../api/mutation";
import { useState } from "react";
import { answer, api, type Schemas } from "../../api/client";
import { useSay } from "../../ui/toast";

export type Picture = Schemas["Picture"];

/** Which pictures are asked for; with "" all that are not deleted. */
export type Only = "" | "undescribed" | "unused" | "deleted";

/** A site's pictures, of which a text is a part of the name or the description. */
export function usePictures(site: string, find: string, wanted: boolean, only: Only = "") {
  return useInfiniteQuery({
    queryKey: ["pictures", site, find, only],
    queryFn: ({ pageParam }) =>
      answer(
        api.GET("/api/v1/sites/{site}/pictures", {
          params: {
            path: { site },
            query: {
              ...(pageParam ? { below: pageParam } : {}),
              ...(find ? { find } : {}),
              ...(only ? { only } : {}),
            },
          },
        }),
      ),
    initialPageParam: 0,
    getNextPageParam: (page) => page.next,
    enabled: wanted,
    refetchOnMount: "always",
    placeholderData: keepPreviousData,
  });
}

// The form is made by the serializer; the document describes the file as text.
const formOf = (file: File) => ({
  body: { file: "", alt: "" },
  bodySerializer: () => {
    const form = new FormData();
    form.append("file", file);
    return form;
  },
});

/** Brings a picture to the site. */
export async function bring(site: string, file: File): Promise<Picture> {
  return answer(api.POST("/api/v1/sites/{site}/pictures", { params: { path: { site } }, ...formOf(file) }));
}

/** A picture with all that shows it. */
export function usePicture(site: string, id: number) {
  return useQuery({
    queryKey: ["pictures", site, id],
    queryFn: () => answer(api.GET("/api/v1/sites/{site}/pictures/{id}", { params: { path: { site, id } } })),
    // No event tells of posts that begin or cease to show it.
    refetchOnMount: "always",
  });
}

/** Something done to a picture; the lists of pictures are asked for anew. */
function useChange<T, R>(site: string, change: (what: T) => Promise<R>) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: change,
    onSettled: () => queries.invalidateQueries({ queryKey: ["pictures", site] }),
  });
}

export const useReplace = (site: string, id: number) =>
  useChange(site, (file: File) =>
    answer(
      api.PUT("/api/v1/sites/{site}/pictures/{id}/file", {
        params: { path: { site, id } },
        ...formOf(file),
      }),
    ),
  );

export const useDescribe = (site: string, id: number) =>
  useChange(site, (alt: string) =>
    answer(api.PUT("/api/v1/sites/{site}/pictures/{id}", { params: { path: { site, id } }, body: { alt } })),
  );

export const useDelete = (site: string) =>
  useChange(site, (id: number) =>
    answer(api.DELETE("/api/v1/sites/{site}/pictures/{id}", { params: { path: { site, id } } })),
  );

export const useRestore = (site: string) =>
  useChange(site, (id: number) =>
    answer(api.POST("/api/v1/sites/{site}/pictures/{id}/restore", { params: { path: { site, id } } })),
  );

export async function describe(site: string, picture: Picture, alt: string): Promise<Picture> {
  return answer(
    api.PUT("/api/v1/sites/{site}/pictures/{id}", {
      params: { path: { site, id: picture.id } },
      body: { alt },
    }),
  );
}

/** Brings pictures one after the other, and tells of those that were refused. */
export function useBring(site: string) {
  const [busy, setBusy] = useState(0);
  const queries = useQueryClient();
  const say = useSay();
  async function go(
    files: File[],
    onBrought: (picture: Picture, file: File) => void,
    onRefused?: (file: File) => void,
  ) {
    for (const file of files) {
      setBusy((n) => n + 1);
      try {
        onBrought(await bring(site, file), file);
        void queries.invalidateQueries({ queryKey: ["pictures", site] });
      } catch (error) {
        onRefused?.(file);
        say.trouble(new Error(`${file.name}: ${error instanceof Error ? error.message : String(error)}`));
      } finally {
        setBusy((n) => n - 1);
      }
    }
  }
  return { busy: busy > 0, bring: go };
}

const titleOf = (title: string) => title || "Untitled";

/** The posts that show a picture, one a line. */
export const titles = ({ usedIn = [] }: Picture) => usedIn.map((p) => titleOf(p.title)).join("\n");

/** What shows a picture, in a few words: "In The Moon illusion and 2 more" */
export function usedIn({ uses, usedIn: [first] = [], logo, icon, shows = [], toSend }: Picture): string {
  if (logo) return "The blog’s logo";
  if (icon) return "The blog’s icon";
  if (shows[0]) return `Shows ${shows[0]}`;
  if (!first) return toSend ? "In a planned message" : "Not used";
  return `In ${titleOf(first.title)}${uses > 1 ? ` and ${uses - 1} more` : ""}`;
}

/** A picture in Markdown. */
export function inMarkdown(picture: Picture): string {
  return `![${picture.alt.replaceAll(/[[\]\n]/g, " ").trim()}](${picture.address})`;
}
