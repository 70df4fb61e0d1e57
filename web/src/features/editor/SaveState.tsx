import { Check, CloudOff, LoaderCircle, TriangleAlert } from "lucide-react";
import type { Phase, State } from "./autosave";

const words: Record<Phase, { text: string; icon: typeof Check; look: string }> = {
  saved: { text: "Saved", icon: Check, look: "text-soft" },
  waiting: { text: "Writing…", icon: LoaderCircle, look: "text-faint" },
  saving: { text: "Saving…", icon: LoaderCircle, look: "text-faint" },
  refused: { text: "Saved, except what is marked below", icon: TriangleAlert, look: "text-madder" },
  unreachable: {
    text: "The server cannot be reached. Your text is kept in this browser and saved as soon as it can be.",
    icon: CloudOff,
    look: "text-madder",
  },
  stopped: {
    text: "Not saved. Your text is kept in this browser.",
    icon: TriangleAlert,
    look: "text-madder",
  },
  conflict: { text: "Not saved: somebody else changed this post", icon: TriangleAlert, look: "text-madder" },
};

/** How the text on the screen stands to what is saved. */
export function SaveState({ state }: { state: State }) {
  const { text, icon: Icon, look } = words[state.phase];
  return (
    <p role="status" className={`flex min-h-5 items-center gap-1.5 text-sm ${look}`}>
      <Icon size={14} aria-hidden />
      {state.post.id === 0 && state.phase === "saved" ? "Nothing to save yet" : text}
      {state.phase === "stopped" && state.why && ` ${state.why}`}
      {state.restored && <span className="text-soft">(with what an earlier visit could not save)</span>}
    </p>
  );
}
