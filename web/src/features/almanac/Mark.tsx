import { clock } from "../../ui/civil";
import { share, type Label } from "./layout";

export type Marked = {
  id: number;
  title: string;
  minute: number;
  kind: "out" | "held" | "scheduled" | "pinned" | "proposed";
};

const looks = {
  out: { bar: "w-px bg-faint", text: "text-faint", title: "", word: "out" },
  held: { bar: "w-[3px] bg-madder", text: "text-madder", title: "font-medium", word: "held" },
  scheduled: { bar: "w-[3px] bg-ink", text: "text-ink", title: "font-medium", word: "scheduled" },
  pinned: { bar: "w-[3px] bg-ink", text: "text-ink", title: "font-medium", word: "pinned" },
  proposed: {
    bar: "w-0 border-l-2 border-dashed border-chalk",
    text: "text-chalk",
    title: "italic",
    word: "proposed",
  },
};

/** A post at its minute: a mark on the tape with its time, word and title beside it. */
export function Mark({
  mark,
  label,
  chosen,
  onClick,
}: {
  mark: Marked;
  label: Label;
  chosen: boolean;
  onClick: () => void;
}) {
  const look = looks[mark.kind];
  const after = label.side === "after";
  const position = after
    ? { left: share(mark.minute), width: share(label.minutes) }
    : { right: share(1440 - mark.minute), width: share(label.minutes) };
  return (
    <button
      type="button"
      onClick={onClick}
      aria-pressed={chosen}
      title={`${clock(mark.minute)} ${look.word}: ${mark.title}`}
      aria-label={`${clock(mark.minute)}, ${look.word}: ${mark.title}`}
      className={`group absolute inset-y-0.5 z-[5] flex min-w-0 ${after ? "text-left" : "flex-row-reverse text-right"}`}
      style={position}
    >
      <span aria-hidden className={`relative my-0.5 shrink-0 ${look.bar}`}>
        {mark.kind === "pinned" && (
          <span className="absolute -top-0.5 left-1/2 size-2 -translate-x-1/2 rounded-full bg-ink" />
        )}
      </span>
      <span
        className={`min-w-0 rounded-sm px-1.5 group-hover:bg-sunk ${look.text} ${chosen ? "bg-sheet ring-2 ring-ink" : ""}`}
      >
        <span className="block truncate text-xs leading-4">
          <span className="font-semibold">{clock(mark.minute)}</span> {look.word}
        </span>
        <span className={`block truncate text-sm leading-[1.125rem] ${look.title}`}>{mark.title}</span>
      </span>
    </button>
  );
}
