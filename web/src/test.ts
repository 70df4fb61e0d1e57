import "temporal-polyfill/global";
import { cleanup } from "@testing-library/react";
import { afterEach, vi } from "vitest";

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

afterEach(() => {
  cleanup();
  localStorage.clear();
});
