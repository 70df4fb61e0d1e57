import { render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { expect, it } from "vitest";
import { TagsField } from "./TagsField";

function Tags() {
  const [tags, setTags] = useState<string[]>(["soil"]);
  return (
    <>
      <TagsField tags={tags} known={["frost", "frogs"]} onChange={setTags} />
      <output>{tags.join("|")}</output>
    </>
  );
}

it.each([
  ["frost, winter, Soil, ", "soil|frost|winter"],
  ["dark skies{Enter}", "soil|dark skies"],
  ["half written", "soil|half written"],
  [" , ,", "soil"],
])("%j", async (typed, want) => {
  render(<Tags />);
  await userEvent.type(screen.getByLabelText("Add a tag"), typed);
  await userEvent.tab();
  expect(screen.getByRole("status").textContent).toBe(want);
});

it("takes a pasted list", async () => {
  render(<Tags />);
  await userEvent.click(screen.getByLabelText("Add a tag"));
  await userEvent.paste("frost, winter,moon");
  await userEvent.tab();
  expect(screen.getByRole("status").textContent).toBe("soil|frost|winter|moon");
});
