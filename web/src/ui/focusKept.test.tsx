import { act, render, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useEffect, useRef, useState } from "react";
import { expect, test } from "vitest";
import { useFocusKept } from "./useFocusKept";

function Status() {
  useFocusKept();
  const [held, setHeld] = useState(false);
  const [deleted, setDeleted] = useState(false);
  const [panel, setPanel] = useState(false);
  return (
    <main aria-label="Screen">
      {!deleted && (
        <section aria-label="Status">
          <p>{held ? "On hold." : "Scheduled."}</p>
          {!held && <button onClick={() => setHeld(true)}>Hold</button>}
          <button onClick={() => setDeleted(true)}>Delete</button>
          {!panel && <button onClick={() => setPanel(true)}>Open</button>}
        </section>
      )}
      {panel && <Panel />}
    </main>
  );
}

function Panel() {
  const heading = useRef<HTMLHeadingElement>(null);
  useEffect(() => heading.current?.focus(), []);
  return (
    <h2 ref={heading} tabIndex={-1}>
      Panel
    </h2>
  );
}

async function pressed(name: string) {
  act(() => screen.getByText(name).focus());
  await userEvent.keyboard("{Enter}");
}

test("a deed that takes its own button away leaves the focus beside it", async () => {
  render(<Status />);
  await pressed("Hold");
  await waitFor(() => expect(document.activeElement).toBe(screen.getByLabelText("Status")));
  await userEvent.tab();
  expect(document.activeElement).toBe(screen.getByText("Delete"));
});

test("where its region is gone too, the next one around has it", async () => {
  render(<Status />);
  await pressed("Delete");
  await waitFor(() => expect(document.activeElement).toBe(screen.getByLabelText("Screen")));
});

test("what takes the focus itself keeps it", async () => {
  render(<Status />);
  await pressed("Open");
  expect(document.activeElement).toBe(screen.getByText("Panel"));
  await new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)));
  expect(document.activeElement).toBe(screen.getByText("Panel"));
});

test("a focus that was given up is not fetched back", async () => {
  const { rerender } = render(<Status />);
  act(() => screen.getByText("Hold").focus());
  act(() => screen.getByText("Hold").blur());
  rerender(<p>Another screen</p>);
  await new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)));
  expect(document.activeElement).toBe(document.body);
});
