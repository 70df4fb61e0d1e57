import { useState } from "react";
import { useFormOf } from "../../ui/useFormOf";
import { ruleSchema, type RuleBody } from "./rules";

/**
 * A rule in the making, beside what is kept of it. When what is kept has moved on, it is taken over, unless that
 * would lose what was written here: then movedOn says so.
 */
export function useRuleForm(saved: RuleBody) {
  const form = useFormOf(ruleSchema, saved);
  const [version, setVersion] = useState(saved.version ?? 0);
  const newer = (saved.version ?? 0) > version;
  function take(kept: RuleBody) {
    setVersion(kept.version ?? 0);
    form.take(kept);
  }
  return { ...form, take, newer };
}
