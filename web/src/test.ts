import "temporal-polyfill/global";
import { cleanup, configure } from "@testing-library/react";
import { afterEach, vi } from "vitest";

// All tests share one page of jsdom: to make one for each file takes longer than all tests do. What a
// test changes of it is put back below.

// What jsdom does not have and the interface asks for.
vi.stubGlobal(
  "ResizeObserver",
  class {
    observe() {}
    unobserve() {}
    disconnect() {}
  },
);
// Node has it from version 21 on.
Map.groupBy ??= (items, keyOf) => {
  const groups = new Map();
  let i = 0;
  for (const item of items) {
    const key = keyOf(item, i++);
    groups.set(key, [...(groups.get(key) ?? []), item]);
  }
  return groups;
};
Element.prototype.scrollIntoView = () => {};

configure({ asyncUtilTimeout: 20_000 });

afterEach(() => {
  cleanup();
  vi.useRealTimers();
  localStorage.clear();
});
