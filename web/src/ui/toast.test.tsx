import { act, fireEvent, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it, vi } from "vitest";
import "./ToastRegion";
import { Toasts, useSay } from "./toast";

function Doer() {
  const say = useSay();
  return (
    <>
      <button onClick={() => say.done("Saved.")}>save</button>
      <button onClick={() => say.done("Moved.", { name: "Undo", go: () => {} })}>move</button>
      <button onClick={() => say.trouble(new Error("It failed."))}>fail</button>
    </>
  );
}

beforeEach(() => void vi.useFakeTimers());

/** Draws the doer, with the region for what it says. */
async function drawn() {
  render(<Toasts children={<Doer />} />);
  await act(() => vi.dynamicImportSettled());
}

const press = (name: string) => fireEvent.click(screen.getByText(name));
const after = (seconds: number) => act(() => vi.advanceTimersByTimeAsync(seconds * 1000));

/** Moves the pointer over a notice; by 0 where the notice has come under a pointer that rests. */
function point(text: string, by: number) {
  for (const [at, kind] of [
    [region(text), "pointerover"],
    [screen.getByText(text), "pointermove"],
  ] as const) {
    const event = new MouseEvent(kind, { bubbles: true });
    Object.defineProperties(event, {
      movementX: { value: by },
      movementY: { value: 0 },
      pointerType: { value: "mouse" },
    });
    fireEvent(at, event);
  }
}

const region = (text: string) => screen.getByText(text).closest(".toasts")!;

describe("a notice", () => {
  it("goes by itself, later where it can be taken back", async () => {
    await drawn();
    press("save");
    press("move");
    await after(7);
    expect(screen.queryByText("Saved.")).toBeNull();
    expect(screen.getByText("Moved.")).toBeTruthy();
    await after(6);
    expect(screen.queryByText("Moved.")).toBeNull();
  });

  it("stays while it is focused or pointed at", async () => {
    await drawn();
    press("move");
    act(() => screen.getByText("Undo").focus());
    await after(60);
    expect(screen.getByText("Moved.")).toBeTruthy();
    act(() => screen.getByText("Undo").blur());
    point("Moved.", 3);
    await after(60);
    expect(screen.getByText("Moved.")).toBeTruthy();
    fireEvent.pointerLeave(region("Moved."), { pointerType: "mouse" });
    await after(13);
    expect(screen.queryByText("Moved.")).toBeNull();
  });

  it("goes although a pointer rests where it appeared, or the one before it was pressed away", async () => {
    await drawn();
    press("move");
    point("Moved.", 0);
    await after(13);
    expect(screen.queryByText("Moved.")).toBeNull();
    press("move");
    point("Moved.", 3);
    fireEvent.click(screen.getByText("Undo"));
    press("save");
    await after(7);
    expect(screen.queryByText("Saved.")).toBeNull();
  });

  it("gives the focus back to where it was when it is pressed away by keys", async () => {
    vi.useRealTimers();
    const keys = userEvent.setup();
    await drawn();
    const move = screen.getByText("move");
    move.focus();
    await keys.keyboard("{Enter}");
    act(() => screen.getByText("Undo").focus());
    await keys.keyboard("{Enter}");
    expect(screen.queryByText("Moved.")).toBeNull();
    expect(document.activeElement).toBe(move);
  });

  it("of what went wrong stays until it is dismissed", async () => {
    await drawn();
    press("fail");
    await after(600);
    expect(screen.getByText("It failed.")).toBeTruthy();
    fireEvent.click(screen.getByLabelText("Dismiss"));
    expect(screen.queryByText("It failed.")).toBeNull();
  });
});
