import { Refusal } from "../../api/client";
import { useComposed, type Composed, type Draft } from "./channels";

/** A message as each of its channels would show it, counted as its network counts. */
export function SideBySide({ site, draft }: { site: string; draft: Draft }) {
  const composed = useComposed(site, draft);
  if (draft.channels.length === 0)
    return <p className="text-sm text-soft">Choose a channel to see the message on it.</p>;
  if (draft.text.trim() === "") return <p className="text-sm text-soft">Write what the message says.</p>;
  if (composed.error)
    return (
      <p role="alert" className="text-sm text-madder">
        {composed.error instanceof Refusal ? composed.error.message : "The preview could not be loaded."}
      </p>
    );
  return (
    <ul
      aria-label="The message on each channel"
      className="grid grid-cols-[repeat(auto-fit,minmax(14rem,1fr))] gap-3"
    >
      {(composed.data ?? []).map((m) => (
        <Shown key={m.channelId} message={m} />
      ))}
    </ul>
  );
}

function Shown({ message: m }: { message: Composed }) {
  return (
    <li
      className={`max-w-120 min-w-0 rounded-md border bg-sheet px-3 py-2 ${m.problem ? "border-madder" : "border-line"}`}
    >
      <p className="mb-1 flex items-baseline gap-2 text-xs text-soft">
        <span className="truncate text-sm font-semibold text-ink">{m.channel}</span>
        <span className={`ml-auto shrink-0 tabular-nums ${m.over ? "font-semibold text-madder" : ""}`}>
          {m.over
            ? `${m.over} over`
            : m.text !== "" && `${m.graphemes}${m.limit ? ` of ${m.limit.toLocaleString("en-GB")}` : ""}`}
        </span>
      </p>
      {m.picture && (
        <img
          src={m.picture.url}
          alt={m.picture.alt}
          style={m.crop ? { aspectRatio: m.crop } : undefined}
          className="mb-2 max-h-48 w-full rounded-sm object-cover"
        />
      )}
      {m.problem ? (
        <p role="alert" className="text-sm text-madder">
          {m.problem}
        </p>
      ) : (
        <p dir="auto" className="text-sm wrap-anywhere whitespace-pre-wrap">
          {m.text}
        </p>
      )}
      {m.fit && <p className="mt-1 text-xs text-away">To fit: {m.fit}.</p>}
      {m.wants === "none" && <p className="mt-1 text-xs text-faint">This channel shows no pictures.</p>}
    </li>
  );
}
