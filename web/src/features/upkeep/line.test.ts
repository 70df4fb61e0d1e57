import { expect, it } from "vitest";
import { withAge } from "./line";
import type { RuleLine } from "./upkeep";

const age = { test: "age", match: "over", n: 10, unit: "days" } as const;
const line = (path: string, rule: object, setting = false) =>
  ({ path, setting, age: { n: 10, unit: "days" }, rule }) as unknown as RuleLine;

it("changes the age of one test and nothing else", () => {
  const other = { test: "category", match: "any", values: ["A"] };
  expect(withAge(line("", { name: "x", condition: age }), 3)).toEqual({
    name: "x",
    condition: { ...age, n: 3 },
  });
  expect(
    withAge(
      line("parts[1].parts[0]", {
        condition: { group: "all", parts: [other, { group: "any", parts: [age] }] },
      }),
      4,
    ),
  ).toEqual({ condition: { group: "all", parts: [other, { group: "any", parts: [{ ...age, n: 4 }] }] } });
});

it("changes the least age of a rule that has one", () => {
  const rule = { condition: { group: "all", parts: [] }, youngest: { n: 10, unit: "days" } };
  expect(withAge(line("", rule, true), 5)).toEqual({ ...rule, youngest: { n: 5, unit: "days" } });
});
