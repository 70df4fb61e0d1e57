import { ArrowDown, ArrowUp, Combine, Split, Trash2 } from "lucide-react";
import { memo, useCallback, useRef, useState } from "react";
import { AddButton } from "../../ui/AddButton";
import { Button, IconButton } from "../../ui/Button";
import { inputLook } from "../../ui/Field";
import { Tick } from "../../ui/Tick";
import { counted, type Change, type Line } from "./tours";

type Props = {
  lines: string[];
  /** Sentences of the post, the best first. */
  offered: Line[];
  stops: number;
  problem: (path: string) => string | undefined;
  onChange: Change;
};

const before = 6; // how many further sentences are offered at once

/** The lines that stops are built on: chosen, changed, joined, parted or written by hand, with more of the post beside. */
export const Lines = memo(function Lines({ lines, offered, stops, problem, onChange }: Props) {
  const [all, setAll] = useState(false);
  const more = offered.filter((l) => !lines.includes(l.text));
  const shown = all ? more : more.slice(0, before);
  const change = useCallback(
    (of: (lines: string[]) => string[]) => onChange((s) => ({ lines: of(s.lines) })),
    [onChange],
  );
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
          <LineRow
            key={i}
            i={i}
            text={text}
            last={i === lines.length - 1}
            wrong={Boolean(problem(`lines[${i}]`))}
            onChange={change}
          />
        ))}
      </ol>
      <div className="mt-1.5 ml-7">
        <AddButton onAdd={() => change((l) => [...l, ""])}>Write a line</AddButton>
      </div>
      {more.length > 0 && (
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
                    onChange={() => change((now) => [...now, l.text])}
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
});

type RowProps = {
  i: number;
  text: string;
  last: boolean;
  wrong: boolean;
  onChange: (of: (lines: string[]) => string[]) => void;
};

/** One line, with what can be done with it. */
const LineRow = memo(function LineRow({ i, text, last, wrong, onChange }: RowProps) {
  const place = useRef(0); // where the cursor was last
  const swap = (j: number) =>
    onChange((lines) => lines.map((l, k) => (k === i ? lines[j] : k === j ? lines[i] : l) ?? l));
  const split = () => {
    const parts = [text.slice(0, place.current).trim(), text.slice(place.current).trim()];
    if (!parts.includes("")) onChange((lines) => lines.flatMap((l, k) => (k === i ? parts : [l])));
  };
  const join = () =>
    onChange((lines) =>
      lines.flatMap((l, k) => (k === i ? [`${l} ${lines[i + 1]}`] : k === i + 1 ? [] : [l])),
    );
  return (
    <li className="flex items-start gap-1 max-md:flex-wrap max-md:justify-end">
      <span className="w-6 pt-1.5 text-right text-xs text-faint tabular-nums">{i + 1}</span>
      <textarea
        aria-label={`Line ${i + 1}`}
        rows={1}
        value={text}
        aria-invalid={wrong}
        onChange={({ target }) => onChange((lines) => lines.map((l, k) => (k === i ? target.value : l)))}
        onSelect={(e) => (place.current = e.currentTarget.selectionStart)}
        className={`${inputLook} field-sizing-content h-auto! min-h-8 flex-1 resize-y py-1`}
      />
      <span className="flex shrink-0">
        <IconButton label={`Move line ${i + 1} up`} disabled={i === 0} onClick={() => swap(i - 1)}>
          <ArrowUp size={14} />
        </IconButton>
        <IconButton label={`Move line ${i + 1} down`} disabled={last} onClick={() => swap(i + 1)}>
          <ArrowDown size={14} />
        </IconButton>
        <IconButton
          label={`Split line ${i + 1} at the cursor`}
          // The cursor would be lost if the button took the focus first.
          onPointerDown={(e) => e.preventDefault()}
          onClick={split}
        >
          <Split size={14} />
        </IconButton>
        <IconButton label={`Join line ${i + 1} with the next`} disabled={last} onClick={join}>
          <Combine size={14} />
        </IconButton>
        <IconButton
          label={`Remove line ${i + 1}`}
          onClick={() => onChange((lines) => lines.filter((_, k) => k !== i))}
        >
          <Trash2 size={14} />
        </IconButton>
      </span>
    </li>
  );
});

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
