import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { fireEvent, render, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { MemoryRouter } from "react-router";
import { expect, test, vi } from "vitest";
import { useCommands } from "../../ui/commands";
import { Toasts } from "../../ui/toast";
import { Keys } from "./Keys";

const begin = vi.fn();
const forecast = vi.fn();

function Screen() {
  useCommands([
    { name: "Undo", group: "Forecast", run: begin },
    { name: "New draft", group: "Do", keys: "n", run: begin },
    { name: "Forecast", group: "Go to", keys: "g f", run: forecast },
  ]);
  return <Keys site="dome" />;
}

const drawn = () =>
  render(
    <QueryClientProvider client={new QueryClient()}>
      <MemoryRouter>
        <Toasts>
          <Screen />
        </Toasts>
      </MemoryRouter>
    </QueryClientProvider>,
  );

test("what is typed before the palette is here is for the palette, and no command", async () => {
  drawn();
  fireEvent.keyDown(document.body, { key: "k", ctrlKey: true });
  for (const key of ["n", "e", "x", "Backspace", "w"]) fireEvent.keyDown(document.body, { key });
  const palette = await screen.findByRole("combobox", {}, { timeout: 15_000 });
  expect(begin).not.toHaveBeenCalled();
  expect((palette as HTMLInputElement).value).toBe("new");
  await userEvent.keyboard("{Enter}");
  await waitFor(() => expect(begin).toHaveBeenCalledOnce());
  expect(screen.queryByRole("combobox")).toBeNull();
}, 30_000);

test("what is typed while the palette is drawn and the focus is not in it yet is kept too", async () => {
  begin.mockClear();
  drawn();
  fireEvent.keyDown(document.body, { key: "k", ctrlKey: true });
  fireEvent.keyDown(document.body, { key: "n" });
  const palette = await screen.findByRole("combobox", {}, { timeout: 15_000 });
  for (const key of ["e", "w", " ", "d"]) fireEvent.keyDown(document.body, { key });
  await waitFor(() => expect((palette as HTMLInputElement).value).toBe("new d"));
  expect(fireEvent.keyDown(document.body, { key: "Tab" })).toBe(true); // the way back into it
  await userEvent.type(palette, "raft");
  expect((palette as HTMLInputElement).value).toBe("new draft");
  expect(begin).not.toHaveBeenCalled();
}, 30_000);

test("Escape closes a palette that is still on its way; letters are commands again", async () => {
  begin.mockClear();
  drawn();
  fireEvent.keyDown(document.body, { key: "k", ctrlKey: true });
  fireEvent.keyDown(document.body, { key: "Escape" });
  fireEvent.keyDown(document.body, { key: "n" });
  expect(begin).toHaveBeenCalledOnce();
  await waitFor(() => expect(screen.queryByRole("combobox")).toBeNull());
});

test("a command of that name comes before those of a group of that name", async () => {
  drawn();
  fireEvent.keyDown(document.body, { key: "k", ctrlKey: true });
  const palette = await screen.findByRole("combobox", {}, { timeout: 15_000 });
  await userEvent.type(palette, "fore");
  expect(screen.getAllByRole("option").map((o) => o.textContent)).toEqual([
    "Go toForecastgf",
    "ForecastUndo",
  ]);
}, 30_000);

test("single keys, one or two, do what the screen offers; within a field they are letters", () => {
  begin.mockClear();
  drawn();
  fireEvent.keyDown(document.body, { key: "g" });
  fireEvent.keyDown(document.body, { key: "f" });
  expect(forecast).toHaveBeenCalledOnce();
  fireEvent.keyDown(document.body, { key: "n" });
  expect(begin).toHaveBeenCalledOnce();
  const field = document.body.appendChild(document.createElement("input"));
  fireEvent.keyDown(field, { key: "n" });
  field.remove();
  expect(begin).toHaveBeenCalledOnce();
});
