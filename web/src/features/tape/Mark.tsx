import { clock } from "../../ui/civil";
import { share, type Label } from "../plan/layout";
import { looks, type Marked } from "../plan/marked";

/** Says that something is missing in a post that is to come out. */
export function Lacking({ what }: { what: string }) {
  return (
    <span title={what} className="ml-1 font-semibold text-away">
      <span aria-hidden>△</span>
      <span className="sr-only">{what}</span>
    </span>
  );
}

/** A post at its minute: a mark on the tape with its time, word and title beside it. */
export function Mark({
  mark,
  label,
  roomy,
  chosen,
  picked,
  onClick,
}: {
  mark: Marked;
  label: Label;
  /** Whether there is room for words. */
  roomy: boolean;
  chosen: boolean;
  picked: boolean;
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
      data-post={mark.id}
      onClick={onClick}
      aria-pressed={chosen}
      title={`${clock(mark.minute)} ${look.word}: ${mark.title}`}
      aria-label={`${clock(mark.minute)} ${look.word} ${mark.title}${mark.lacks ? `, ${mark.lacks}` : ""}${picked ? ", chosen" : ""}`}
      className={`group hit absolute inset-y-0.5 z-[5] flex min-w-0 ${after ? "text-left" : "flex-row-reverse text-right"}`}
      style={position}
    >
      <span
        aria-hidden
        data-bar
        className={`relative my-0.5 shrink-0 ${mark.again ? "mt-[50%]" : ""} ${look.bar}`}
      >
        {mark.kind === "pinned" && (
          <span className="absolute -top-0.5 left-1/2 -ml-1 size-2 rounded-full bg-ink" />
        )}
      </span>
      {roomy ? (
        <Words mark={mark} chosen={chosen} picked={picked} />
      ) : (
        // A post between near neighbours is its bar alone; wider hours, or a look at the day, tell more.
        <span className={`w-1.5 ${chosen ? "ring-2 ring-ink" : ""} ${picked ? "picked" : ""}`} />
      )}
    </button>
  );
}

function Words({ mark, chosen, picked }: { mark: Marked; chosen: boolean; picked: boolean }) {
  const look = looks[mark.kind];
  return (
    <span
      className={`min-w-0 rounded-sm px-1.5 in-data-[density=dense]:truncate in-data-[density=dense]:leading-6 group-hover:bg-sunk ${look.text} ${chosen ? "bg-sheet ring-2 ring-ink" : ""} ${picked ? "picked" : ""}`}
    >
      <span className="block truncate text-xs leading-4 in-data-[density=dense]:inline">
        <span className="font-semibold">{clock(mark.minute)}</span> {mark.again && "(second time) "}
        {look.word}
        {mark.lacks && <Lacking what={mark.lacks} />}
      </span>{" "}
      <span
        className={`block truncate text-sm leading-[1.125rem] in-data-[density=dense]:inline ${look.title}`}
      >
        {mark.title}
      </span>
    </span>
  );
}
