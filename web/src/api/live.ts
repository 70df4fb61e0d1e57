import { useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { setServerNow } from "../ui/siteClock";
import type { Schemas } from "./client";
import { refresh, type Part, type Versions } from "./shown";

/** How long what was written waits until it is asked for, in milliseconds: whoever saved it has the answer by then. */
const writingRests = 400;

/** How long the site's events may stay away until something is done about it, in milliseconds. */
const again = 4000;

/**
 * How long a change waits that comes right after another, in milliseconds: a run, or an import, makes many of them, and
 * all that is shown is asked for anew each time.
 */
const apart = 500;

/** Gathers changes, and tells them together once the first has waited; at the end, what waits still. */
function gathered(tell: (of: Part[], posts: Versions) => void) {
  let timer: number | undefined;
  let parts = new Set<Part>();
  let versions: Versions = [];
  const flush = () => {
    const [told, which] = [[...parts], versions];
    [timer, parts, versions] = [undefined, new Set(), []];
    tell(told, which);
  };
  return {
    add(of: Part[], posts: Versions, wait: number) {
      for (const part of of) parts.add(part);
      versions = versions && posts && [...versions, ...posts];
      timer ??= window.setTimeout(flush, wait);
    },
    end() {
      if (timer === undefined) return;
      window.clearTimeout(timer);
      flush();
    },
  };
}

/** Tells a change at once, and those that come right after it together. */
function spaced(tell: (of: Part[], posts: Versions) => void) {
  let told = -apart;
  const now = (of: Part[], posts: Versions) => {
    told = performance.now();
    tell(of, posts);
  };
  const later = gathered(now);
  return {
    add(of: Part[], posts: Versions) {
      const passed = performance.now() - told;
      if (passed < apart) later.add(of, posts, apart - passed);
      else now(of, posts);
    },
    end: later.end,
  };
}

/** The sites whose events arrive now. */
const hearing = new Set<string>();

/**
 * For whoever has just changed something of a site: what shows it is asked for anew. As long as the site's events
 * arrive they see to that, and it is not asked for twice; but not all that is done to rules is told by events.
 */
export function useRefresh(site: string) {
  const queries = useQueryClient();
  return (...parts: Part[]) => {
    const untold = hearing.has(site) ? parts.filter((p) => p === "rules") : parts;
    if (untold.length > 0) refresh(queries, site, untold);
  };
}

/**
 * While mounted, what the engine and other editors do to the site appears by itself. A tab that is not looked at
 * gives its connection back, since a browser grants only a few to one server, and catches up when it is looked at.
 */
export function useLive(site: string) {
  const queries = useQueryClient();
  useEffect(() => {
    let events: EventSource | undefined;
    let opened = false;
    let timer: number | undefined;
    const tick = (event: MessageEvent<string>) =>
      setServerNow((JSON.parse(event.data) as { now: string }).now);
    const change = (event: MessageEvent<string>) => {
      const { of, posts } = JSON.parse(event.data) as Schemas["PlanChanged"];
      if (of.every((part) => part === "text" || part === "title")) writing.add(of, posts, writingRests);
      else changed.add(of, posts);
    };
    const ask = (of: Part[], posts: Versions) => refresh(queries, site, of, posts);
    const writing = gathered(ask);
    const changed = spaced(ask);
    function listen() {
      if (events) return;
      events = new EventSource(`/api/v1/sites/${encodeURIComponent(site)}/events`);
      events.addEventListener("plan", tick);
      events.addEventListener("plan", change);
      events.addEventListener("beat", tick);
      events.addEventListener("open", () => {
        // After a lost connection something may have happened unseen.
        if (opened) refresh(queries, site, ["all"]);
        opened = true;
        hearing.add(site);
      });
      events.addEventListener("error", lost);
    }
    // The browser connects again by itself, but not where it was told anything else than events, such as by what
    // stands before a server that is being replaced.
    function lost() {
      hearing.delete(site);
      // Not begun anew by each try of the browser's that fails: those may come faster than this passes.
      timer ??= window.setTimeout(() => {
        timer = undefined;
        if (hearing.has(site) || !events) return;
        // Whether the server answers at all: if it does not, whoever looks is told.
        void queries.invalidateQueries({ queryKey: ["plan", site, "status"] });
        if (events.readyState !== EventSource.CLOSED) return;
        events = undefined;
        listen();
      }, again);
    }
    function rest() {
      window.clearTimeout(timer);
      timer = undefined;
      events?.close();
      events = undefined;
      writing.end();
      changed.end();
      hearing.delete(site);
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
