import { Trash2 } from "lucide-react";
import { useState } from "react";
import { AddButton } from "../../ui/AddButton";
import { IconButton } from "../../ui/Button";
import { inputLook } from "../../ui/Field";

type Props = {
  fields: Record<string, string>;
  error: string | undefined;
  onChange: (fields: Record<string, string>) => void;
};

/** Custom fields: names and values that rules and wordings may ask for. */
export function CustomFields({ fields, error, onChange }: Props) {
  // A field that has no name yet is kept here until it has one.
  const [rows, setRows] = useState(() => Object.entries(fields));
  function change(next: [string, string][]) {
    setRows(next);
    onChange(Object.fromEntries(next.filter(([name]) => name.trim() !== "")));
  }
  return (
    <>
      {rows.map(([name, value], i) => (
        // Fields are told apart by their place while their names are being written.
        <div key={i} className="flex gap-1">
          <input
            aria-label="Name of the field"
            placeholder="name"
            className={inputLook}
            value={name}
            onChange={(e) => change(rows.map((f, j) => (j === i ? [e.target.value, f[1]] : f)))}
          />
          <input
            aria-label={`Value of ${name || "the field"}`}
            placeholder="value"
            className={inputLook}
            value={value}
            onChange={(e) => change(rows.map((f, j) => (j === i ? [f[0], e.target.value] : f)))}
          />
          <IconButton
            label={`Remove the field ${name}`}
            onClick={() => change(rows.filter((_, j) => j !== i))}
          >
            <Trash2 size={14} />
          </IconButton>
        </div>
      ))}
      {error && (
        <p role="alert" className="text-xs text-madder">
          {error}
        </p>
      )}
      <AddButton look="quiet" onAdd={() => setRows([...rows, ["", ""]])}>
        Add a field
      </AddButton>
    </>
  );
}
