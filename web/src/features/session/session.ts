import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useMutation } from "../../api/mutation";
import { answer, api, type Schemas } from "../../api/client";
import { setSignedOut } from "../../api/signedOut";
import { setServerNow } from "../../ui/siteClock";
import { applyPreferences, usualPreferences, type Preferences } from "./preferences";

export type Me = Schemas["Me"];

export function useSession() {
  return useQuery({
    queryKey: ["session"],
    queryFn: async () => begun(await answer(api.GET("/api/v1/session"))),
    staleTime: 60_000,
  });
}

function begun(me: Me): Me {
  setSignedOut(false);
  setServerNow(me.now);
  applyPreferences(me.preferences);
  return me;
}

/** Takes the session that has begun with what was just answered. */
export function useTakeSession() {
  const queries = useQueryClient();
  return (me: Me) => void queries.setQueryData(["session"], begun(me));
}

export function useSignIn() {
  const onSuccess = useTakeSession();
  return useMutation({
    mutationFn: (body: { email: string; password: string }) => answer(api.POST("/api/v1/session", { body })),
    onSuccess,
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

/** How one likes the screens. */
export function usePreferences(): Preferences {
  return useSession().data?.preferences ?? usualPreferences;
}

/** Whether one is an owner of the site. */
export function useOwner(site: string): boolean {
  return useSession().data?.sites.find((s) => s.slug === site)?.role === "owner";
}

/** Whether one may change the site's plan: owners and editors may, contributors look at it. */
export function usePlanner(site: string): boolean {
  const role = useSession().data?.sites.find((s) => s.slug === site)?.role;
  return role === "owner" || role === "editor";
}
