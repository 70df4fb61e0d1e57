import type { Condition, RuleBody } from "../rules/rules";
import type { RuleLine } from "./upkeep";

/** The rule of a line as it would be with another age. */
export function withAge(line: RuleLine, n: number): RuleBody {
  const rule = line.rule;
  if (line.setting) return { ...rule, youngest: { ...line.age!, n } };
  const steps = [...(line.path ?? "").matchAll(/parts\[(\d+)\]/g)].map((m) => Number(m[1]));
  return { ...rule, condition: at(rule.condition, steps, n) };
}

function at(node: Condition, steps: number[], n: number): Condition {
  const [first, ...rest] = steps;
  if (first === undefined) return { ...node, n };
  return { ...node, parts: (node.parts ?? []).map((p, i) => (i === first ? at(p, rest, n) : p)) };
}
