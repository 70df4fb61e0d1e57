import { use, useState } from "react";
import { clock } from "../../ui/civil";
import { useRoving } from "../../ui/useRoving";
import { kindWords } from "../forecast/kinds";
import { labels, share } from "../plan/layout";
import { isMovable } from "../plan/markDeeds";
import { layerOf, layers, type DeedMark } from "../plan/marks";
import { aimWords, MarkHandContext, onMarkKey, onMarkPress, type Aim } from "./markHand";

/** Below a day's posts: what was shared, came out again or was taken away, each a thin mark with its word. */
export function ThinMarks({
  marks,
  legible,
  chosen,
  onChoose,
}: {
  marks: DeedMark[];
  /** Minutes of tape in which a label can be read. */
  legible: number;
  chosen: string | undefined;
  onChoose: (mark: string) => void;
}) {
  const places = labels(
    marks.map((m) => m.minute),
    legible,
  );
  // A row is one stop of the Tab key, however many marks it has; arrows go from one to the next.
  const roving = useRoving(marks.findIndex((m) => markId(m) === chosen));
  return (
    <div role="group" aria-label="Outings and upkeep" className="relative h-[1.125rem]" {...roving.group}>
      {marks.map((m, i) => (
        <Thin
          key={markId(m)}
          mark={m}
          label={places[i]!}
          chosen={chosen === markId(m)}
          tabIndex={roving.tabIndex(i)}
          onChoose={onChoose}
        />
      ))}
    </div>
  );
}

/** A name for a mark, for the address. */
export function markId(m: DeedMark): string {
  return `${m.at}_${m.kind}_${m.postId ?? 0}_${m.ruleId ?? 0}`;
}

function Thin({
  mark,
  label,
  chosen,
  tabIndex,
  onChoose,
}: {
  mark: DeedMark;
  label: ReturnType<typeof labels>[number];
  chosen: boolean;
  tabIndex: number;
  onChoose: (mark: string) => void;
}) {
  const layer = layers[layerOf(mark.kind)];
  const kind = kindWords[mark.kind];
  const hand = use(MarkHandContext);
  const [aim, setAim] = useState<Aim>();
  const coming = mark.state === "coming";
  const movable = hand !== undefined && isMovable(mark);
  const failed = mark.state === "failed";
  const about = mark.title || mark.rule || "";
  const position =
    label.side === "after"
      ? { left: share(label.at), width: share(label.minutes) }
      : { right: share(1440 - label.at), width: share(label.minutes) };
  return (
    <button
      type="button"
      tabIndex={tabIndex}
      aria-pressed={chosen}
      aria-label={`${clock(mark.minute)} ${kind.word} ${about}${coming ? ", to come" : failed ? ", failed" : ""}`}
      aria-keyshortcuts={movable ? "h Delete" : undefined}
      title={`${clock(mark.minute)} ${kind.word}: ${about}${movable ? ". Drag it, or press h, to move it" : ""}`}
      onKeyDown={(e) => hand && onMarkKey(e, mark, hand, aim, setAim)}
      onPointerDown={(e) => hand && onMarkPress(e, mark, hand, setAim)}
      onBlur={() => setAim(undefined)}
      onDragStart={(e) => e.preventDefault()}
      onClick={() => onChoose(markId(mark))}
      style={position}
      className={`hit absolute inset-y-0 z-[5] flex min-w-0 items-stretch text-left text-xs hover:underline ${
        label.side === "after" ? "" : "flex-row-reverse"
      } ${aim ? "z-20" : ""} ${movable ? "touch-pan-y" : ""} ${failed ? "text-madder" : layer.color} ${chosen ? "rounded-sm ring-2 ring-ink" : ""}`}
    >
      <span
        aria-hidden
        data-bar
        className={`w-px shrink-0 ${label.at === mark.minute ? "" : "invisible"} ${coming ? "border-l border-dashed border-current" : layer.bar}`}
      />
      <span className="truncate px-1 leading-[1.125rem]">
        <span aria-hidden>{kind.mark}</span> <span className="font-semibold">{clock(mark.minute)}</span>{" "}
        {kind.word} <span className="text-soft">{about}</span>
      </span>
      {aim && (
        <span
          role="status"
          className="absolute top-full left-0 z-30 mt-0.5 rounded-md bg-ink px-2 py-1 text-sm whitespace-nowrap text-ground shadow-lifted"
        >
          To {aimWords(aim)}
        </span>
      )}
    </button>
  );
}
