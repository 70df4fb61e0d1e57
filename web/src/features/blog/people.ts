import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useMutation } from "../../api/mutation";
import { answer, api, type Schemas } from "../../api/client";

export type Person = Schemas["Person"];
export type Invitation = Schemas["Invitation"];
export type Role = Person["role"];

export const roles: { value: Role; name: string; hint: string }[] = [
  { value: "contributor", name: "Contributor", hint: "writes drafts and sends them for review" },
  { value: "editor", name: "Editor", hint: "decides what comes out, and when" },
  { value: "owner", name: "Owner", hint: "also decides who works on this blog" },
];

export function usePeople(site: string, wanted = true) {
  return useQuery({
    queryKey: ["people", site],
    enabled: wanted,
    queryFn: () => answer(api.GET("/api/v1/sites/{site}/people", { params: { path: { site } } })),
  });
}

export function useInvitations(site: string, wanted: boolean) {
  return useQuery({
    queryKey: ["people", site, "invitations"],
    queryFn: () => answer(api.GET("/api/v1/sites/{site}/invitations", { params: { path: { site } } })),
    enabled: wanted,
  });
}

/** Runs a change to the people of a site, and shows them as they are then. */
export function usePeopleChange<In, Out>(site: string, change: (input: In) => Promise<Out>) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: change,
    onSettled: () => void queries.invalidateQueries({ queryKey: ["people", site] }),
  });
}
