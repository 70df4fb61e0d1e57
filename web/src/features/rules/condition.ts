import type { Condition, Form, Way } from "./rules";

/** A new test of a form, with its first way of comparing. */
export function newTest(form: Form, way: Way = form.ways[0]!): Condition {
  const needs = way.needs ?? [];
  return {
    test: form.test as NonNullable<Condition["test"]>,
    match: way.match as NonNullable<Condition["match"]>,
    ...(needs.includes("values") || needs.includes("value") ? { values: [] } : {}),
    ...(needs.includes("field") ? { field: "" } : {}),
    ...(needs.includes("number") ? { n: way.match === "under" ? 1 : 0 } : {}),
    ...(needs.includes("span") ? { n: form.test === "field" ? 0 : 3, unit: "days" as const } : {}),
    ...(needs.includes("date") ? { date: "" } : {}),
    ...(needs.includes("days") ? { days: 30 } : {}),
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
