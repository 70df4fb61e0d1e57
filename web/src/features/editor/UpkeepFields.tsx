import { Trash2 } from "lucide-react";
import { useState } from "react";
import { AddButton } from "../../ui/AddButton";
import { IconButton } from "../../ui/Button";
import { DateField } from "../../ui/DateField";
import { inputLook } from "../../ui/Field";
import { Tick } from "../../ui/Tick";
import { TimeField } from "../../ui/TimeField";
import type { Autosave, State } from "./autosave";

type Props = { autosave: Autosave; state: State };

/** How long the post is good for: evergreen, its own expiry, or never. */
export function UpkeepFields({ autosave, state }: Props) {
  const { evergreen, neverExpires, expires } = state.fields;
  return (
    <>
      <Tick
        label="Evergreen: good to be seen again"
        on={evergreen}
        onChange={(on) => autosave.edit({ evergreen: on })}
      />
      <Tick
        label="Never expires"
        on={neverExpires}
        onChange={(on) => autosave.edit({ neverExpires: on, ...(on ? { expires: {} } : {}) })}
      />
      {!neverExpires && (
        <div className="flex items-start gap-2">
          <DateField
            label="Expires on"
            optional
            placeholder="as the rules say"
            value={expires.date ?? ""}
            error={state.errors.expires}
            onChange={(date) =>
              autosave.edit({ expires: date ? { date, clock: expires.clock ?? "00:00" } : {} })
            }
          />
          {expires.date && (
            <TimeField
              label="at"
              value={expires.clock ?? "00:00"}
              onChange={(clock) => autosave.edit({ expires: { ...expires, clock } })}
            />
          )}
        </div>
      )}
    </>
  );
}

/** Custom fields: names and values that rules and wordings may ask for. */
export function CustomFields({ autosave, state }: Props) {
  const [rows, setRows] = useState(() => Object.entries(state.fields.fields));
  function change(next: [string, string][]) {
    setRows(next);
    autosave.edit({ fields: Object.fromEntries(next.filter(([name]) => name.trim() !== "")) });
  }
  const error = state.errors.fields;
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
