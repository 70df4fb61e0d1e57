import { DateField } from "../../ui/DateField";
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
