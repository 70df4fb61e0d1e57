import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { answer, api, type Schemas } from "../../api/client";

export type Me = Schemas["Me"];

export function useSession() {
  return useQuery({
    queryKey: ["session"],
    queryFn: () => answer(api.GET("/api/v1/session")),
    staleTime: 60_000,
  });
}

export function useSignIn() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: { email: string; password: string }) => answer(api.POST("/api/v1/session", { body })),
    onSuccess: (me) => queries.setQueryData(["session"], me),
  });
}

export function useSignOut() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: () => answer(api.DELETE("/api/v1/session")),
    // Nothing of one person's may stay for the next.
    onSuccess: () => {
      queries.clear();
      window.location.assign("/sign-in");
    },
  });
}
