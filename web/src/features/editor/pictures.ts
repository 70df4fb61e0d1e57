import { keepPreviousData, useInfiniteQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api, type Schemas } from "../../api/client";
import { useSay } from "../../ui/toast";

export type Picture = Schemas["Picture"];

/** A site's pictures, of which a text is a part of the name or the description. */
export function usePictures(site: string, find: string, wanted: boolean) {
  return useInfiniteQuery({
    queryKey: ["pictures", site, find],
    queryFn: ({ pageParam }) =>
      answer(
        api.GET("/api/v1/sites/{site}/pictures", {
          params: {
            path: { site },
            query: { ...(pageParam ? { below: pageParam } : {}), ...(find ? { find } : {}) },
          },
        }),
      ),
    initialPageParam: 0,
    getNextPageParam: (page) => page.next,
    enabled: wanted,
    placeholderData: keepPreviousData,
  });
}

/** Brings a picture to the site. */
export async function bring(site: string, file: File): Promise<Picture> {
  return answer(
    api.POST("/api/v1/sites/{site}/pictures", {
      params: { path: { site } },
      // The form is made by the serializer; the document describes the file as text.
      body: { file: "", alt: "" },
      bodySerializer: () => {
        const form = new FormData();
        form.append("file", file);
        return form;
      },
    }),
  );
}

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

/** A picture in Markdown. */
export function inMarkdown(picture: Picture): string {
  return `![${picture.alt.replaceAll(/[[\]\n]/g, " ").trim()}](${picture.address})`;
}
