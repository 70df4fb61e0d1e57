import { act, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { expect, test, vi } from "vitest";
import { Panel } from "./Panel";

function Screen() {
  const [chosen, choose] = useState("");
  return (
    <>
      <section aria-label="Plan">
        {["Comet", "Moon"].map((title) => (
          <button key={title} data-post={title} onClick={() => choose(title)}>
            {title}
          </button>
        ))}
      </section>
      <aside aria-label="Beside the plan">
        {chosen && (
          <Panel key={chosen} title={`About ${chosen}`} onClose={() => choose("")}>
            text
          </Panel>
        )}
      </aside>
    </>
  );
}

/** Longer after a press of the pointer than anything still comes of it. */
const later = () => vi.spyOn(performance, "now").mockReturnValue(performance.now() + 5000);

test("who chooses a post by keys is in its panel, and back on it when that closes", async () => {
  const keys = userEvent.setup();
  render(<Screen />);
  later();
  act(() => screen.getByText("Moon").focus());
  await keys.keyboard("{Enter}");
  expect(document.activeElement).toBe(screen.getByText("About Moon"));
  await keys.keyboard("{Escape}");
  expect(screen.queryByText("About Moon")).toBeNull();
  expect(document.activeElement).toBe(screen.getByText("Moon"));
  vi.restoreAllMocks();
});

test("who points at a post stays on it", async () => {
  const hand = userEvent.setup();
  render(<Screen />);
  await hand.click(screen.getByText("Comet"));
  expect(screen.getByText("About Comet")).toBeTruthy();
  expect(document.activeElement).toBe(screen.getByText("Comet"));
});
