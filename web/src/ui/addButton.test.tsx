import { render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { expect, test } from "vitest";
import { AddButton } from "./AddButton";

function Fields() {
  const [rows, setRows] = useState(["a", "b"]);
  return (
    <section>
      <ul>
        {rows.map((row, i) => (
          <li key={i}>
            <input aria-label={`Name ${i + 1}`} defaultValue={row} />
            <input aria-label={`Value ${i + 1}`} />
          </li>
        ))}
      </ul>
      <AddButton onAdd={() => setRows([...rows, ""])}>Add a field</AddButton>
      <input aria-label="What follows" />
    </section>
  );
}

test("who adds one more is in its first field", async () => {
  const keys = userEvent.setup();
  render(<Fields />);
  screen.getByText("Add a field").focus();
  await keys.keyboard("{Enter}");
  await new Promise((done) => requestAnimationFrame(done));
  expect(document.activeElement).toBe(screen.getByLabelText("Name 3"));
});
