import { expect, it } from "vitest";
import { paragraphsOf } from "./remarks";

it("names paragraphs by how they begin, each once", () => {
  const long = "A ".repeat(200);
  const all = paragraphsOf(`One.\n\nTwo,\non two lines.\n \nOne.\n\n${long}\n\n`);
  expect(all.map((p) => p.name)).toEqual(["One.", "Two, on two lines.", `${"A ".repeat(30)}…`]);
  expect(all[2]?.quote).toHaveLength(250);
  expect(paragraphsOf(" \n\n ")).toEqual([]);
});
