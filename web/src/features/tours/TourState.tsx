import { CircleCheck, CircleDashed, CirclePause, CirclePlay, CircleStop } from "lucide-react";
import { states, type Summary } from "./tours";

const icons = {
  draft: CircleDashed,
  running: CirclePlay,
  paused: CirclePause,
  stopped: CircleStop,
  over: CircleCheck,
};

/** How far a tour has got, as a mark and a word. */
export function TourState({ state }: { state: Summary["state"] }) {
  const Icon = icons[state];
  return (
    <span
      className={`inline-flex items-center gap-1.5 text-sm whitespace-nowrap ${state === "running" ? "font-semibold" : "text-soft"}`}
    >
      <Icon size={14} aria-hidden />
      {states[state]}
    </span>
  );
}
