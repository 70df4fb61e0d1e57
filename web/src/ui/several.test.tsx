import { render, screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { expect, test } from "vitest";
import { saySeveral, Several } from "./Several";

const options = [
  { value: 1, name: "Pell" },
  { value: 2, name: "Ines" },
];

test("several values are said in words", () => {
  expect(saySeveral([], options, "Any author", "authors")).toBe("Any author");
  expect(saySeveral([2], options, "Any author", "authors")).toBe("Ines");
  expect(saySeveral([1, 2], options, "Any author", "authors")).toBe("2 authors");
  expect(saySeveral([9], options, "Any author", "authors")).toBe("one that is gone");
});

function Two() {
  const [values, setValues] = useState<number[]>([]);
  return (
    <form onSubmit={() => expect.unreachable("the form was sent")}>
      <Several
        label="Authors"
        any="Any author"
        many="authors"
        values={values}
        options={options}
        onChange={setValues}
      />
    </form>
  );
}

test("several are chosen and let go by keys alone, and Enter does not send the form", async () => {
  const user = userEvent.setup();
  render(<Two />);
  await user.tab();
  await user.keyboard("{Enter}");
  const list = await screen.findByRole("listbox");
  await user.click(within(list).getByRole("option", { name: "Pell" }));
  await user.keyboard("{ArrowDown}{Enter}{Escape}");
  expect(screen.getByRole("button").textContent).toBe("2 authors");
});

test("what is chosen at once after another is chosen too, however late the first arrives", async () => {
  const user = userEvent.setup();
  const sent: number[][] = [];
  const late = (values: number[]) => (
    <Several
      label="Authors"
      any="Any author"
      many="authors"
      values={values}
      options={options}
      onChange={(next) => sent.push(next)}
    />
  );
  const { rerender } = render(late([]));
  await user.click(screen.getByRole("button"));
  const list = await screen.findByRole("listbox");
  await user.click(within(list).getByRole("option", { name: "Pell" }));
  await user.click(within(list).getByRole("option", { name: "Ines" }));
  expect(sent).toEqual([[1], [1, 2]]);
  rerender(late([1]));
  rerender(late([1, 2]));
  expect(screen.getByRole("button").textContent).toBe("2 authors");
  rerender(late([2])); // by going back
  expect(screen.getByRole("button").textContent).toBe("Ines");
});
