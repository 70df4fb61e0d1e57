import { CircleDashed, CirclePause, CirclePlay } from "lucide-react";
import type { Rule } from "./rules";

/** Whether a rule acts: on, waiting for an editor, or off. */
export function StateWord({ state }: { state: Rule["state"] }) {
  const looks = {
    armed: { icon: <CirclePlay size={14} aria-hidden />, word: "On", color: "text-ink font-semibold" },
    held: {
      icon: <CirclePause size={14} aria-hidden />,
      word: "Needs your decision",
      color: "text-madder font-semibold",
    },
    off: { icon: <CircleDashed size={14} aria-hidden />, word: "Off", color: "text-faint" },
  }[state];
  return (
    <span className={`inline-flex items-center gap-1.5 text-sm whitespace-nowrap ${looks.color}`}>
      {looks.icon}
      {looks.word}
    </span>
  );
}
