import { act, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, it } from "vitest";
import { z } from "zod";
import { useKept } from "./useKept";

const schema = z.object({ version: z.number().optional(), title: z.string(), tagline: z.string() });
type Value = z.infer<typeof schema>;

let finish: { ok: (kept: Value) => void; fail: (why: Error) => void };

function Form({ saved }: { saved: Value }) {
  const form = useKept(schema, saved);
  const field = (name: "title" | "tagline") => (
    <input
      aria-label={name}
      value={form.values[name]}
      onChange={(e) => form.set({ [name]: e.target.value })}
    />
  );
  return (
    <>
      {field("title")}
      {field("tagline")}
      <button onClick={() => form.save(() => new Promise((ok, fail) => (finish = { ok, fail })))}>
        Save
      </button>
      <button onClick={() => form.take(saved)}>Load theirs</button>
      <p>{form.changed ? "changed" : "as kept"}</p>
      {form.movedOn && <p>moved on</p>}
    </>
  );
}

const first = { version: 1, title: "Dome", tagline: "Old" };
const title = () => screen.getByLabelText<HTMLInputElement>("title").value;
const tagline = () => screen.getByLabelText<HTMLInputElement>("tagline").value;

it("shows what others save where nothing is written", () => {
  const shown = render(<Form saved={first} />);
  shown.rerender(<Form saved={{ ...first, version: 2, title: "Theirs" }} />);
  expect([title(), screen.queryByText("moved on")]).toEqual(["Theirs", null]);
  expect(screen.getByText("as kept")).toBeTruthy();
});

it("keeps what is written from what others save, and says so", async () => {
  const user = userEvent.setup();
  const shown = render(<Form saved={first} />);
  await user.type(screen.getByLabelText("tagline"), " and mine");
  shown.rerender(<Form saved={{ version: 2, title: "Theirs", tagline: "Theirs" }} />);
  expect([title(), tagline()]).toEqual(["Dome", "Old and mine"]);
  expect(screen.getByText("moved on")).toBeTruthy();
  await user.click(screen.getByText("Load theirs"));
  expect([title(), tagline(), screen.queryByText("moved on")]).toEqual(["Theirs", "Theirs", null]);
});

it("keeps what is written while a save is on its way", async () => {
  const user = userEvent.setup();
  const shown = render(<Form saved={first} />);
  await user.type(screen.getByLabelText("title"), " Notes");
  await user.click(screen.getByText("Save"));
  await user.type(screen.getByLabelText("tagline"), "er");
  const kept = { version: 2, title: "Dome Notes", tagline: "Old" };
  shown.rerender(<Form saved={kept} />); // an event comes before the answer
  expect(screen.queryByText("moved on")).toBeNull();
  await act(async () => finish.ok(kept));
  expect([title(), tagline()]).toEqual(["Dome Notes", "Older"]);
  expect(screen.getByText("changed")).toBeTruthy();
  expect(screen.queryByText("moved on")).toBeNull();
});

it("stays as it is where a save fails", async () => {
  const user = userEvent.setup();
  render(<Form saved={first} />);
  await user.type(screen.getByLabelText("title"), "!");
  await user.click(screen.getByText("Save"));
  await act(async () => finish.fail(new Error("no")));
  expect(title()).toBe("Dome!");
  expect(screen.getByText("changed")).toBeTruthy();
});
