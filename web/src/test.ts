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
Element.prototype.scrollIntoView = () => {};

afterEach(() => {
  cleanup();
  localStorage.clear();
});
