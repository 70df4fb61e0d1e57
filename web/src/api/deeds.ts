import { api } from "./client";

// Whatever changes something answers with the line of the logbook that tells of it, or
// with "none" where undoing a line does not take it back. Answers to questions, some of
// which are asked by POST, say nothing of the kind.

/** A request that changed something; line is absent where it cannot be taken back. */
export type Deed = { site: string; line: number | undefined };

type Watcher = (deed: Deed) => void;

const watchers = new Set<Watcher>();
const underWay = new Set<string>();
let waiting: (() => void)[] = [];

/** Calls back after each deed, but for undoing itself. */
export function watchDeeds(watcher: Watcher) {
  watchers.add(watcher);
}

/** Resolves once no request that changes something is under way. */
export function deedsDone(): Promise<void> {
  if (underWay.size === 0) return Promise.resolve();
  return new Promise((done) => waiting.push(done));
}

function over(id: string) {
  underWay.delete(id);
  if (underWay.size > 0) return;
  const all = waiting;
  waiting = [];
  for (const done of all) done();
}

const changes = (method: string) => method !== "GET" && method !== "HEAD";

api.use({
  onRequest({ request, id }) {
    if (changes(request.method)) underWay.add(id);
  },
  onResponse({ request, response, id }) {
    const told = response.headers.get("Logbook-Line");
    const line = Number(told) || undefined;
    const path = new URL(request.url).pathname;
    const site = /^\/api\/v1\/sites\/([^/]+)\//.exec(path)?.[1];
    if (told !== null && response.ok && site && !path.endsWith("/undo")) {
      for (const watcher of watchers) watcher({ site: decodeURIComponent(site), line });
    }
    over(id);
  },
  onError({ id }) {
    over(id);
  },
});
