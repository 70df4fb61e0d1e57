import { render, screen } from "@testing-library/react";
import { expect, test, vi } from "vitest";
import { Boundary } from "./Boundary";

function Broken(): never {
  throw new Error("no such mark");
}

test("what fails to draw says so in its place, is reported once, and another screen is tried anew", () => {
  vi.spyOn(console, "error").mockImplementation(() => undefined);
  const failed = vi.fn();
  const { rerender } = render(
    <Boundary at="/dome" onFailure={failed}>
      <Broken />
    </Boundary>,
  );
  expect(screen.getByText(/This screen couldn’t be shown/)).toBeTruthy();
  expect(failed).toHaveBeenCalledTimes(1);
  expect(failed.mock.calls[0]![0]).toMatchObject({ message: "no such mark" });
  expect(failed.mock.calls[0]![1]).toContain("Broken");
  rerender(
    <Boundary at="/dome/posts" onFailure={failed}>
      <p>All well</p>
    </Boundary>,
  );
  expect(screen.getByText("All well")).toBeTruthy();
});
