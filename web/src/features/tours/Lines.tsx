import { ArrowDown, ArrowUp, Combine, Split, Trash2 } from "lucide-react";
import { useRef, useState } from "react";
import { AddButton } from "../../ui/AddButton";
import { Button, IconButton } from "../../ui/Button";
import { inputLook } from "../../ui/Field";
import { Tick } from "../../ui/Tick";
import { counted, type Line } from "./tours";

type Props = {
  lines: string[];
  /** Sentences of the post, the best first. */
  offered: Line[];
  stops: number;
  problem: (path: string) => string | undefined;
  readOnly: boolean;
  onChange: (lines: string[]) => void;
};

const before = 6; // how many further sentences are offered at once

/** The lines that stops are built on: chosen, changed, joined, parted or written by hand, with more of the post beside. */
export function Lines({ lines, offered, stops, problem, readOnly, onChange }: Props) {
  const [all, setAll] = useState(false);
  // Where the cursor was last in each line.
  const places = useRef<Record<number, number>>({});
  const more = offered.filter((l) => !lines.includes(l.text));
  const shown = all ? more : more.slice(0, before);
  const swap = (i: number, j: number) => {
    const moved = [...lines];
    [moved[i], moved[j]] = [moved[j] ?? "", moved[i] ?? ""];
    onChange(moved);
  };
  const split = (i: number) => {
    const text = lines[i] ?? "";
    const at = places.current[i] ?? 0;
    const parts = [text.slice(0, at).trim(), text.slice(at).trim()].filter((part) => part !== "");
    if (parts.length === 2) onChange(lines.flatMap((l, j) => (j === i ? parts : [l])));
  };
  return (
    <section aria-label="Lines">
      <h2 className="text-base font-semibold">Lines</h2>
      <p className="mb-2 text-sm text-soft">
        Sentences of the post that each stop is built on. <Count lines={lines.length} stops={stops} />
      </p>
      {problem("lines") && (
        <p role="alert" className="mb-1 text-xs text-madder">
          {problem("lines")}
        </p>
      )}
      <ol className="space-y-1.5">
        {lines.map((text, i) => (
          // Lines are dealt by their place; they have no other name.
          <li key={i} className="flex items-start gap-1 max-md:flex-wrap max-md:justify-end">
            <span className="w-6 pt-1.5 text-right text-xs text-faint tabular-nums">{i + 1}</span>
            <textarea
              aria-label={`Line ${i + 1}`}
              rows={1}
              readOnly={readOnly}
              value={text}
              aria-invalid={Boolean(problem(`lines[${i}]`))}
              onChange={(e) => onChange(lines.map((l, j) => (j === i ? e.target.value : l)))}
              onSelect={(e) => (places.current[i] = e.currentTarget.selectionStart)}
              className={`${inputLook} field-sizing-content h-auto! min-h-8 flex-1 resize-y py-1`}
            />
            {!readOnly && (
              <span className="flex shrink-0">
                <IconButton label={`Move line ${i + 1} up`} disabled={i === 0} onClick={() => swap(i, i - 1)}>
                  <ArrowUp size={14} />
                </IconButton>
                <IconButton
                  label={`Move line ${i + 1} down`}
                  disabled={i === lines.length - 1}
                  onClick={() => swap(i, i + 1)}
                >
                  <ArrowDown size={14} />
                </IconButton>
                <IconButton
                  label={`Split line ${i + 1} at the cursor`}
                  // The cursor would be lost if the button took the focus first.
                  onPointerDown={(e) => e.preventDefault()}
                  onClick={() => split(i)}
                >
                  <Split size={14} />
                </IconButton>
                <IconButton
                  label={`Join line ${i + 1} with the next`}
                  disabled={i === lines.length - 1}
                  onClick={() =>
                    onChange(
                      lines.flatMap((l, j) => (j === i ? [`${l} ${lines[i + 1]}`] : j === i + 1 ? [] : [l])),
                    )
                  }
                >
                  <Combine size={14} />
                </IconButton>
                <IconButton
                  label={`Remove line ${i + 1}`}
                  onClick={() => onChange(lines.filter((_, j) => j !== i))}
                >
                  <Trash2 size={14} />
                </IconButton>
              </span>
            )}
          </li>
        ))}
      </ol>
      {!readOnly && (
        <div className="mt-1.5 ml-7">
          <AddButton onAdd={() => onChange([...lines, ""])}>Write a line</AddButton>
        </div>
      )}
      {!readOnly && more.length > 0 && (
        <>
          <h3 className="mt-3 mb-1 text-sm font-semibold">More from the post</h3>
          <ul className="space-y-1">
            {shown.map((l) => (
              <li key={l.place} className="flex items-start gap-2 text-sm">
                <span className="pt-0.5">
                  <Tick
                    label={`Use “${l.text}”`}
                    hideLabel
                    on={false}
                    onChange={() => onChange([...lines, l.text])}
                  />
                </span>
                <span className={l.good ? "" : "text-soft"}>
                  {l.text}
                  {l.why && <span className="text-faint"> ({l.why})</span>}
                </span>
              </li>
            ))}
          </ul>
          {more.length > before && (
            <Button look="quiet" className="mt-1 -ml-2" onClick={() => setAll(!all)}>
              {all ? "Show fewer" : `Show all ${more.length}`}
            </Button>
          )}
        </>
      )}
    </section>
  );
}

/** How many lines are wanted and how many there are. */
function Count({ lines, stops }: { lines: number; stops: number }) {
  const said = `${counted(lines, "line")} for ${counted(stops, "stop")}`;
  if (lines >= stops)
    return (
      <span className="font-semibold text-ink">
        {said}
        {lines > stops && `: the first ${stops} are used`}.
      </span>
    );
  return (
    <span className="font-semibold text-ink">
      {said}
      {lines > 0 &&
        `: each comes ${Math.ceil(stops / lines) === 2 ? "up to twice" : `up to ${Math.ceil(stops / lines)} times`}`}
      .
    </span>
  );
}
