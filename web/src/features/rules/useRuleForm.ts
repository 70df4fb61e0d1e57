import { useState } from "react";
import type { RuleBody } from "./rules";

/**
 * A rule in the making, beside what is kept of it. When what is kept has moved on, it is taken over, unless that
 * would lose what was written here: then movedOn says so.
 */
export function useRuleForm(saved: RuleBody) {
  const [base, setBase] = useState(saved);
  const [body, setBody] = useState(saved);
  const changed = JSON.stringify(body) !== JSON.stringify(base);
  const newer = (saved.version ?? 0) > (base.version ?? 0);
  function take(kept: RuleBody) {
    setBase(kept);
    setBody(kept);
  }
  if (newer && !changed) take(saved);
  return {
    body,
    changed,
    movedOn: newer && changed,
    take,
    set: (change: Partial<RuleBody>) => setBody({ ...body, ...change }),
  };
}
