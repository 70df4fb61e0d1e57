import { QueryCache, QueryClient } from "@tanstack/react-query";
import { useSyncExternalStore } from "react";
import { Refusal } from "./client";

/** Whether there may be an answer by and by: no connection now, or a server that is busy or just being replaced. */
function passing(error: unknown): boolean {
  return !(error instanceof Refusal) || error.status >= 500 || [408, 425, 429].includes(error.status);
}

/** How long it takes until what failed is asked for again, in milliseconds: each time longer, up to the last. */
const waits = [2000, 4000, 8000, 15_000, 30_000];

const isSession = (error: unknown) => error instanceof Refusal && error.status === 401;

type Known = { queryHash: string };

/**
 * What is shown though it could not be brought up to date. It is asked for again by itself until it comes; who looks
 * at it is told as long as there is some.
 */
class Behind {
  private hashes = new Set<string>();
  private tries = 0;
  private timer: number | undefined;
  private watchers = new Set<() => void>();
  private queries: QueryClient | undefined;

  /** Begins anew with a client. */
  of(queries: QueryClient) {
    window.clearTimeout(this.timer);
    this.queries = queries;
    this.hashes.clear();
    this.rest();
  }

  failed(query: Known) {
    this.hashes.add(query.queryHash);
    if (this.timer === undefined) {
      this.timer = window.setTimeout(this.again, waits[Math.min(this.tries, waits.length - 1)]);
      this.tries++;
    }
    this.tell();
  }

  /** There is an answer: news, or that there will be none. */
  came(query: Known) {
    if (this.hashes.delete(query.queryHash) && this.hashes.size === 0) this.rest();
  }

  again = () => {
    window.clearTimeout(this.timer);
    this.timer = undefined;
    const waiting = this.shown();
    // What nobody looks at any more is asked for when it is looked at again.
    this.hashes = new Set(waiting.map((q) => q.queryHash));
    if (waiting.length === 0) this.rest();
    else for (const query of waiting) void query.fetch().catch(() => undefined);
  };

  subscribe = (watcher: () => void) => {
    this.watchers.add(watcher);
    return () => this.watchers.delete(watcher);
  };

  snapshot = () => this.hashes.size > 0;

  private shown() {
    const all = this.queries?.getQueryCache().findAll({ type: "active" }) ?? [];
    return all.filter((q) => this.hashes.has(q.queryHash));
  }

  private rest() {
    window.clearTimeout(this.timer);
    this.timer = undefined;
    this.tries = 0;
    this.tell();
  }

  private tell() {
    this.watchers.forEach((w) => w());
  }
}

const behind = new Behind();

/** Whether what is shown may be out of date, since the server did not answer when it was asked last. */
export const useBehind = () => useSyncExternalStore(behind.subscribe, behind.snapshot);

/** Asks now for what did not come. */
export const askAgain = () => behind.again();

/**
 * What the screens know of the server. What has come once stays where the server cannot be reached for a while, or the
 * session has ended: a screen is not taken away, with all that was typed there, because its news do not come. Only an
 * answer that there is no such thing (any more), or that it may not be seen, takes its place.
 */
export function newQueries(): QueryClient {
  const queryCache = new QueryCache({
    onSuccess: (_, query) => behind.came(query),
    onError: (error, query) => {
      if (!passing(error)) behind.came(query);
      // The next page of a list: what asked for it says so in its place.
      if (query.state.data === undefined || query.state.fetchMeta?.fetchMore) return;
      if (!passing(error) && !isSession(error)) return;
      query.setState({ status: "success", error: null, isInvalidated: true });
      if (passing(error) && query.isActive()) behind.failed(query);
    },
  });
  const queries = new QueryClient({
    queryCache,
    defaultOptions: {
      queries: {
        // A refusal stays a refusal; only what did not get through is tried again.
        retry: (failures, error) => !(error instanceof Refusal) && failures < 3,
        refetchOnWindowFocus: true,
        staleTime: 10_000,
        // The server may be on this very machine: a browser without a network can reach it all the same.
        networkMode: "always",
      },
      mutations: { networkMode: "always" },
    },
  });
  behind.of(queries);
  return queries;
}
