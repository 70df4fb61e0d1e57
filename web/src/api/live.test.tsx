import { QueryClientProvider, useQuery } from "@tanstack/react-query";
import { act, renderHook } from "@testing-library/react";
import type { ReactNode } from "react";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { useLive } from "./live";
import { newQueries } from "./queries";

/** A browser's stream of events, to which things happen by hand. */
class Stream extends EventTarget {
  static readonly CLOSED = 2;
  static all: Stream[] = [];
  readyState = 0;
  constructor() {
    super();
    Stream.all.push(this);
  }
  close() {
    this.readyState = Stream.CLOSED;
  }
  tells(of: string[]) {
    const data = JSON.stringify({ now: "2026-11-24T16:00:00Z", of });
    act(() => void this.dispatchEvent(new MessageEvent("plan", { data })));
  }
  fails() {
    act(() => void this.dispatchEvent(new Event("error")));
  }
}

beforeEach(() => {
  vi.useFakeTimers();
  Stream.all = [];
  vi.stubGlobal("EventSource", Stream);
});
afterEach(() => {
  vi.unstubAllGlobals();
  vi.useRealTimers();
});

/** A screen of a site that hears of it; asked is how often its status was asked for. */
async function heard() {
  const queries = newQueries();
  const asked = vi.fn(() => Promise.resolve("status"));
  const inQueries = ({ children }: { children: ReactNode }) => (
    <QueryClientProvider client={queries}>{children}</QueryClientProvider>
  );
  const { unmount } = renderHook(
    () => {
      useLive("dome");
      useQuery({ queryKey: ["plan", "dome", "status"], queryFn: asked });
    },
    { wrapper: inQueries },
  );
  const pass = (ms: number) => act(() => vi.advanceTimersByTimeAsync(ms));
  await pass(10);
  return { queries, asked, pass, unmount };
}

test("where the browser tries in vain to connect again, it is asked whether the server answers at all", async () => {
  const { asked, pass, unmount } = await heard();
  for (let i = 0; i < 5; i++) {
    Stream.all[0]!.fails();
    await pass(3000);
  }
  expect(asked.mock.calls.length).toBeGreaterThan(2);
  expect(Stream.all).toHaveLength(1); // the browser connects by itself
  unmount();
});

test("where the browser has given up, events are listened to anew", async () => {
  const { pass, unmount } = await heard();
  Stream.all[0]!.close();
  Stream.all[0]!.fails();
  await pass(5000);
  expect(Stream.all).toHaveLength(2);
  unmount();
  await pass(60_000);
  expect(Stream.all).toHaveLength(2);
});

test("a change is asked for at once, and those that come right after it together", async () => {
  const { asked, pass, unmount } = await heard();
  const stream = Stream.all[0]!;
  await pass(1000);
  expect(asked).toHaveBeenCalledTimes(1);
  stream.tells(["plan"]);
  await pass(10);
  expect(asked).toHaveBeenCalledTimes(2);
  for (let i = 0; i < 9; i++) {
    stream.tells(i % 2 ? ["plan"] : ["comments"]);
    await pass(50);
  }
  expect(asked).toHaveBeenCalledTimes(2);
  await pass(40);
  expect(asked).toHaveBeenCalledTimes(3);
  await pass(2000);
  expect(asked).toHaveBeenCalledTimes(3);
  stream.tells(["plan"]);
  await pass(10);
  expect(asked).toHaveBeenCalledTimes(4);
  unmount();
});

test("a change that waits when its screen is left is not lost to those that come after it", async () => {
  const { queries, pass, unmount } = await heard();
  const stream = Stream.all[0]!;
  await pass(1000);
  stream.tells(["plan"]);
  await pass(10);
  stream.tells(["plan"]);
  const stale = () => queries.getQueryState(["plan", "dome", "status"])?.isInvalidated;
  expect(stale()).toBe(false);
  unmount();
  expect(stale()).toBe(true);
});
