import type { Condition, Form, Way } from "./rules";

/** A new test of a form, with its first way of comparing. What is to be filled in is there, empty. */
export function newTest(form: Form, way: Way = form.ways[0]!): Condition {
  const needs = way.needs ?? [];
  return {
    ...(needs.includes("values") || needs.includes("value") ? { values: [] } : {}),
    ...(needs.includes("field") ? { field: "" } : {}),
    ...(needs.includes("number") || needs.includes("span") ? { n: 0 } : {}),
    ...(needs.includes("date") ? { date: "" } : {}),
    ...way.begin,
  };
}

/** The test compared in another way, keeping what both ways need. */
export function inWay(test: Condition, form: Form, match: string): Condition {
  const way = form.ways.find((w) => w.match === match) ?? form.ways[0]!;
  const fresh = newTest(form, way);
  const kept = Object.fromEntries(
    Object.entries(test).filter(([key]) => key in fresh && key !== "match"),
  ) as Condition;
  return { ...fresh, ...kept, match: way.match as NonNullable<Condition["match"]> };
}

/** The group as it is with one part changed, or taken away. */
export function withPart(group: Condition, i: number, part: Condition | undefined): Condition {
  const parts = (group.parts ?? []).flatMap((p, j) => (j !== i ? [p] : part ? [part] : []));
  return { ...group, parts };
}
