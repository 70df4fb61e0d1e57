import { useQuery } from "@tanstack/react-query";
import { answer, api } from "../../api/client";
import { setServerNow } from "../../ui/siteClock";

/** What every screen shows of a site. */
export function useStatus(site: string) {
  return useQuery({
    queryKey: ["plan", site, "status"],
    queryFn: async () => {
      const status = await answer(api.GET("/api/v1/sites/{site}/status", { params: { path: { site } } }));
      setServerNow(status.now.at);
      return { ...status, now: { ...status.now, received: Date.now() } };
    },
    refetchInterval: 60_000,
  });
}
