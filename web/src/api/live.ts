import { useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { setServerNow } from "../ui/siteClock";

/**
 * While mounted, what the engine and other editors do to the site appears by itself. A tab that is not looked at
 * gives its connection back, since a browser grants only a few to one server, and catches up when it is looked at.
 */
export function useLive(site: string) {
  const queries = useQueryClient();
  useEffect(() => {
    let events: EventSource | undefined;
    let opened = false;
    const refresh = () => void queries.invalidateQueries({ queryKey: ["plan", site] });
    const tick = (event: MessageEvent<string>) =>
      setServerNow((JSON.parse(event.data) as { now: string }).now);
    function listen() {
      if (events) return;
      events = new EventSource(`/api/v1/sites/${encodeURIComponent(site)}/events`);
      events.addEventListener("plan", tick);
      events.addEventListener("plan", refresh);
      events.addEventListener("beat", tick);
      events.addEventListener("open", () => {
        // After a lost connection something may have happened unseen.
        if (opened) refresh();
        opened = true;
      });
    }
    function rest() {
      events?.close();
      events = undefined;
    }
    const follow = () => (document.visibilityState === "visible" ? listen() : rest());
    follow();
    document.addEventListener("visibilitychange", follow);
    window.addEventListener("pagehide", rest);
    window.addEventListener("pageshow", follow);
    return () => {
      rest();
      document.removeEventListener("visibilitychange", follow);
      window.removeEventListener("pagehide", rest);
      window.removeEventListener("pageshow", follow);
    };
  }, [queries, site]);
}
