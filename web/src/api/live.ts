import { useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";

/** While mounted, what the engine and other editors do to the site appears by itself. */
export function useLive(site: string) {
  const queries = useQueryClient();
  useEffect(() => {
    const events = new EventSource(`/api/v1/sites/${encodeURIComponent(site)}/events`);
    const refresh = () => void queries.invalidateQueries({ queryKey: ["plan", site] });
    events.addEventListener("plan", refresh);
    // After a lost connection something may have happened unseen.
    let opened = false;
    events.addEventListener("open", () => {
      if (opened) refresh();
      opened = true;
    });
    return () => events.close();
  }, [queries, site]);
}
