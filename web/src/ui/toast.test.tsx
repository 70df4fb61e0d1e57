import { act, fireEvent, render, screen } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";
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

const press = (name: string) => fireEvent.click(screen.getByText(name));
const after = (seconds: number) => act(() => void vi.advanceTimersByTime(seconds * 1000));

/** Moves the pointer over a notice; by 0 where the notice has come under a pointer that rests. */
function point(text: string, by: number) {
  const move = new MouseEvent("pointermove", { bubbles: true });
  Object.defineProperties(move, { movementX: { value: by }, movementY: { value: 0 } });
  fireEvent(screen.getByText(text), move);
}

describe("a notice", () => {
  it("goes by itself, later where it can be taken back", () => {
    render(<Toasts children={<Doer />} />);
    press("save");
    press("move");
    after(7);
    expect(screen.queryByText("Saved.")).toBeNull();
    expect(screen.getByText("Moved.")).toBeTruthy();
    after(6);
    expect(screen.queryByText("Moved.")).toBeNull();
  });

  it("stays while it is focused or pointed at", () => {
    render(<Toasts children={<Doer />} />);
    press("move");
    act(() => screen.getByText("Undo").focus());
    after(60);
    expect(screen.getByText("Moved.")).toBeTruthy();
    act(() => screen.getByText("Undo").blur());
    point("Moved.", 3);
    after(60);
    expect(screen.getByText("Moved.")).toBeTruthy();
    fireEvent.pointerLeave(screen.getByText("Moved.").closest(".toasts")!);
    after(13);
    expect(screen.queryByText("Moved.")).toBeNull();
  });

  it("goes although a pointer rests where it appeared, or the one before it was pressed away", () => {
    render(<Toasts children={<Doer />} />);
    press("move");
    point("Moved.", 0);
    after(13);
    expect(screen.queryByText("Moved.")).toBeNull();
    press("move");
    point("Moved.", 3);
    fireEvent.click(screen.getByText("Undo"));
    press("save");
    after(7);
    expect(screen.queryByText("Saved.")).toBeNull();
  });

  it("of what went wrong stays until it is dismissed", () => {
    render(<Toasts children={<Doer />} />);
    press("fail");
    after(600);
    expect(screen.getByText("It failed.")).toBeTruthy();
    fireEvent.click(screen.getByLabelText("Dismiss"));
    expect(screen.queryByText("It failed.")).toBeNull();
  });
});
