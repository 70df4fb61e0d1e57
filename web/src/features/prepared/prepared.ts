import { useQuery } from "@tanstack/react-query";
import { useMutation } from "../../api/mutation";
import { answer, api, type Schemas } from "../../api/client";
import { useRefresh } from "../../api/live";

export type Row = Schemas["PreparedMessage"];
export type Body = Schemas["PreparedBody"];
export type Openings = Schemas["PreparedOpenings"];
export type Passed = "now" | "opening" | "leave";
export type ReadRow = Schemas["PreparedRead"];

/** The table of prepared messages. */
export function usePrepared(site: string) {
  return useQuery({
    queryKey: ["plan", site, "prepared"],
    queryFn: () => answer(api.GET("/api/v1/sites/{site}/prepared", { params: { path: { site } } })),
  });
}

/** A file's bytes in base64 (RFC 4648), as requests in JSON carry them. */
export function base64Of(file: Blob): Promise<string> {
  return new Promise((done, failed) => {
    const reader = new FileReader();
    reader.onload = () => done(String(reader.result).replace(/^[^,]*,/, ""));
    reader.onerror = () => failed(new Error("The file can’t be read. Choose it again."));
    reader.readAsDataURL(file);
  });
}

/** A sheet as messages: pasted cells, or a sheet of a file; nothing is kept. */
export function useRead(site: string) {
  return useMutation({
    mutationFn: (body: { sheet?: string; file?: string; name?: string }) =>
      answer(api.POST("/api/v1/sites/{site}/prepared/read", { params: { path: { site } }, body })),
  });
}

export function usePreparedDeeds(site: string) {
  const refresh = useRefresh(site);
  const onSettled = () => refresh("rules");
  const one = (id: number) => ({ params: { path: { site, id } } });
  const all = { params: { path: { site } } };
  return {
    add: useMutation({
      mutationFn: (rows: Body[]) =>
        answer(api.POST("/api/v1/sites/{site}/prepared", { ...all, body: { rows } })),
      onSettled,
    }),
    save: useMutation({
      mutationFn: ({ id, ...body }: Body & { id: number; version: number }) =>
        answer(api.PUT("/api/v1/sites/{site}/prepared/{id}", { ...one(id), body })),
      onSettled,
    }),
    remove: useMutation({
      mutationFn: (id: number) => answer(api.DELETE("/api/v1/sites/{site}/prepared/{id}", one(id))),
      onSettled,
    }),
    release: useMutation({
      mutationFn: (body: { ids: number[]; passed?: Passed }) =>
        answer(api.POST("/api/v1/sites/{site}/prepared/release", { ...all, body })),
      onSettled,
    }),
    withdraw: useMutation({
      mutationFn: (ids: number[]) =>
        answer(api.POST("/api/v1/sites/{site}/prepared/withdraw", { ...all, body: { ids } })),
      onSettled,
    }),
    sample: useMutation({
      mutationFn: (id: number) => answer(api.POST("/api/v1/sites/{site}/prepared/{id}/sample", one(id))),
    }),
    openings: useMutation({
      mutationFn: (body: { cadence: Openings["cadence"]; version: number }) =>
        answer(api.PUT("/api/v1/sites/{site}/prepared/openings", { ...all, body })),
      onSettled,
    }),
  };
}

/** What is written of a row, without what follows from it. */
export function bodyOf(row: Body): Body {
  const { postId, title, link, text, pictureId, channels, at } = row;
  return {
    postId: postId ?? 0,
    title: title ?? "",
    link: link ?? "",
    text,
    pictureId: pictureId ?? 0,
    channels,
    ...(at ? { at } : {}),
  };
}

export const isOpen = (row: Row) => row.standing === "being prepared";
export const isReady = (row: Row) => row.standing === "ready" || row.standing === "due";
