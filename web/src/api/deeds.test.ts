import { expect, test, vi } from "vitest";
import { api } from "./client";
import { watchDeeds } from "./deeds";

const ask = (line?: string) =>
  api.POST("/api/v1/sites/{site}/render", {
    params: { path: { site: "quillmoor" } },
    body: { body: "" } as never,
    baseUrl: "http://almanac.example/",
    fetch: () =>
      Promise.resolve(new Response("{}", { headers: line === undefined ? {} : { "Logbook-Line": line } })),
  });

test("a deed is told of with its line, or without one; a question is no deed", async () => {
  const seen = vi.fn();
  watchDeeds(seen);
  await ask("12");
  expect(seen).toHaveBeenLastCalledWith({ site: "quillmoor", line: 12 });
  await ask();
  expect(seen).toHaveBeenCalledTimes(1);
  await ask("none");
  expect(seen).toHaveBeenLastCalledWith({ site: "quillmoor", line: undefined });
});
