import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useMutation } from "../../api/mutation";
import { answer, api, type Schemas } from "../../api/client";

export type Destinations = Schemas["Destinations"];
export type Destination = Schemas["Destination"];
export type DestinationBody = Pick<
  Destination,
  "name" | "posts" | "pages" | "pictures" | "pictureLink" | "address" | "archived"
>;
export type CopyView = Schemas["CopyView"];

const sometimes = 10_000;
const often = 1500;

/** Where the posts of a site go; looked at often while something is being brought over. */
export function useDestinations(site: string) {
  return useQuery({
    queryKey: ["plan", site, "destinations"],
    queryFn: () => answer(api.GET("/api/v1/sites/{site}/destinations", { params: { path: { site } } })),
    refetchInterval: ({ state: { data } }) =>
      data && (data.hub.waiting || data.destinations.some((d) => d.waiting > d.failing || d.ending))
        ? often
        : sometimes,
  });
}

export function useCopies(site: string, id: number) {
  return useQuery({
    queryKey: ["plan", site, "copies", id],
    queryFn: () =>
      answer(api.GET("/api/v1/sites/{site}/destinations/{id}/copies", { params: { path: { site, id } } })),
    refetchInterval: often,
  });
}

/** Where a post is, beside the built-in pages. */
export function usePlaces(site: string, id: number) {
  return useQuery({
    queryKey: ["plan", site, "copies-of", id],
    queryFn: () =>
      answer(api.GET("/api/v1/sites/{site}/posts/{id}/copies", { params: { path: { site, id } } })),
    refetchInterval: ({ state: { data } }) =>
      data?.some((c) => c.waiting && !c.held && !c.error) ? often : sometimes,
  });
}

export function useDestinationDeeds(site: string) {
  const queries = useQueryClient();
  // Awaited, so a form is open for new changes only once it shows what was saved.
  const onSettled = () => queries.invalidateQueries({ queryKey: ["plan", site] });
  const of = { params: { path: { site } } };
  const one = (id: number) => ({ params: { path: { site, id } } });
  return {
    savePages: useMutation({
      mutationFn: (body: { on: boolean; hub: string; version: number }) =>
        answer(api.PUT("/api/v1/sites/{site}/destinations/pages", { ...of, body })),
      onSettled,
    }),
    tellHub: useMutation({
      mutationFn: () => answer(api.POST("/api/v1/sites/{site}/destinations/pages/told", of)),
      onSettled,
    }),
    add: useMutation({
      mutationFn: (
        body: DestinationBody & {
          kind: Destination["kind"];
          folder?: string;
          channel?: number;
          existing: boolean;
        },
      ) => answer(api.POST("/api/v1/sites/{site}/destinations", { ...of, body })),
      onSettled,
    }),
    save: useMutation({
      mutationFn: ({ id, ...body }: DestinationBody & { id: number; on: boolean; version: number }) =>
        answer(api.PUT("/api/v1/sites/{site}/destinations/{id}", { ...one(id), body })),
      onSettled,
    }),
    end: useMutation({
      mutationFn: ({ id, version, remove }: { id: number; version: number; remove: boolean }) =>
        answer(
          api.DELETE("/api/v1/sites/{site}/destinations/{id}", {
            params: { path: { site, id }, query: { version, remove } },
          }),
        ),
      onSettled,
    }),
    sendAll: useMutation({
      mutationFn: ({ id, version }: { id: number; version: number }) =>
        answer(api.POST("/api/v1/sites/{site}/destinations/{id}/all", { ...one(id), body: { version } })),
      onSettled,
    }),
    again: useMutation({
      mutationFn: ({ id, post, ...body }: { id: number; post: number; replace?: boolean; url?: string }) =>
        answer(
          api.POST("/api/v1/sites/{site}/destinations/{id}/copies/{post}/again", {
            params: { path: { site, id, post } },
            body,
          }),
        ),
      onSettled,
    }),
  };
}

/** What an editor said of a destination, as it is saved. */
export function bodyOf(d: Destination): DestinationBody {
  return {
    name: d.name,
    posts: d.posts ?? "",
    pages: d.pages ?? "",
    pictures: d.pictures ?? "",
    pictureLink: d.pictureLink ?? "",
    address: d.address ?? "",
    archived: d.archived,
  };
}
