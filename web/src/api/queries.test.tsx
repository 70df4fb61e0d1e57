import { QueryClientProvider, useQuery } from "@tanstack/react-query";
import { act, renderHook } from "@testing-library/react";
import type { ReactNode } from "react";
import { afterEach, beforeEach, describe, expect, test, vi } from "vitest";
import { Refusal, Unreachable, type Problem } from "./client";
import { newQueries, useBehind } from "./queries";

const refusal = (status: number) => new Refusal({ status, title: "", detail: `A ${status}.` } as Problem);

beforeEach(() => void vi.useFakeTimers());
afterEach(() => void vi.useRealTimers());

/** A screen that shows one answer, of a server that answers as `says` does. */
async function shown(says: () => Promise<string>) {
  const queries = newQueries();
  const inQueries = ({ children }: { children: ReactNode }) => (
    <QueryClientProvider client={queries}>{children}</QueryClientProvider>
  );
  const { result, unmount } = renderHook(
    () => ({ ...useQuery({ queryKey: ["one"], queryFn: says }), behind: useBehind() }),
    { wrapper: inQueries },
  );
  const pass = (ms: number) => act(() => vi.advanceTimersByTimeAsync(ms));
  await pass(10);
  return { result, queries, pass, unmount, anew: () => void queries.invalidateQueries() };
}

describe("what has come once", () => {
  test.each([
    ["cannot be reached", () => new Unreachable()],
    ["is being replaced", () => refusal(502)],
    ["is busy", () => refusal(503)],
    ["is asked too often", () => refusal(429)],
  ])("stays while the server %s, is said to be out of date, and comes by itself", async (_, failure) => {
    const says = vi.fn(() => Promise.resolve("first"));
    const { result, pass, anew, unmount } = await shown(says);
    expect(result.current).toMatchObject({ data: "first", behind: false });
    says.mockImplementation(() => Promise.reject(failure()));
    anew();
    await pass(60_000);
    expect(result.current).toMatchObject({ data: "first", error: null, status: "success", behind: true });
    expect(says.mock.calls.length).toBeGreaterThan(3);
    says.mockImplementation(() => Promise.resolve("second"));
    await pass(60_000);
    expect(result.current).toMatchObject({ data: "second", behind: false });
    const asked = says.mock.calls.length;
    await pass(600_000);
    expect(says.mock.calls.length).toBe(asked); // nothing is asked for without need
    unmount();
  });

  test("goes where the answer is that there is no such thing any more", async () => {
    const says = vi.fn(() => Promise.resolve("first"));
    const { result, pass, anew } = await shown(says);
    says.mockImplementation(() => Promise.reject(refusal(404)));
    anew();
    await pass(100);
    expect(result.current.error?.message).toBe("A 404.");
    expect(result.current.behind).toBe(false);
  });

  test.each([404, 401])("is no longer said to be out of date once the answer is a %i", async (status) => {
    const says = vi.fn(() => Promise.resolve("first"));
    const { result, pass, anew, unmount } = await shown(says);
    says.mockImplementation(() => Promise.reject(refusal(502)));
    anew();
    await pass(100);
    expect(result.current.behind).toBe(true);
    says.mockImplementation(() => Promise.reject(refusal(status)));
    await pass(60_000);
    expect(result.current.behind).toBe(false);
    unmount();
  });

  test("stays where the session has ended, and is not asked for again by itself", async () => {
    const says = vi.fn(() => Promise.resolve("first"));
    const { result, pass, anew } = await shown(says);
    says.mockImplementation(() => Promise.reject(refusal(401)));
    anew();
    await pass(60_000);
    expect(result.current).toMatchObject({ data: "first", error: null, behind: false });
    expect(says).toHaveBeenCalledTimes(2);
  });

  test("is not asked for while nobody looks, and nothing is said to be out of date then", async () => {
    const says = vi.fn(() => Promise.resolve("first"));
    const { pass, anew, unmount } = await shown(says);
    says.mockImplementation(() => Promise.reject(refusal(503)));
    anew();
    await pass(100);
    unmount();
    await pass(5000);
    const asked = says.mock.calls.length;
    await pass(600_000);
    expect(says.mock.calls.length).toBe(asked);
    const { result } = renderHook(() => useBehind());
    expect(result.current).toBe(false);
  });
});

test("what never came is an error, as before", async () => {
  const { result, pass } = await shown(() => Promise.reject(refusal(503)));
  await pass(100);
  expect(result.current).toMatchObject({ data: undefined, behind: false, status: "error" });
  expect(result.current.error?.message).toBe("A 503.");
});
