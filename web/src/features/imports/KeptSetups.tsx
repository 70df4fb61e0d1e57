import { useState } from "react";
import { Button } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { TextField } from "../../ui/Field";
import { useSay } from "../../ui/toast";
import { useSetupDeeds, type Setup } from "./imports";

type Props = { site: string; setup: Setup; onTake: (setup: Setup) => void };

/** Setups that were kept by name: to take one, and to keep this one. */
export function KeptSetups({ site, setup, onTake }: Props) {
  const say = useSay();
  const { kept, save, drop } = useSetupDeeds(site);
  const [taken, setTaken] = useState("");
  const [name, setName] = useState<string>();
  const all = kept.data?.setups ?? [];
  return (
    <div className="mb-2 flex flex-wrap items-end gap-2">
      {all.length > 0 && (
        <div className="w-56">
          <Choice
            label="Setup"
            value={taken}
            options={[
              { value: "", name: "Use a saved setup…" },
              ...all.map((s) => ({ value: s.name, name: s.name })),
            ]}
            onChange={(to) => {
              setTaken(to);
              const found = all.find((s) => s.name === to);
              if (found) onTake(found.setup);
            }}
          />
        </div>
      )}
      {name === undefined ? (
        <Button look="quiet" onClick={() => setName(taken)}>
          Save this setup…
        </Button>
      ) : (
        <form
          className="flex items-end gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            save.mutate(
              { name, setup },
              {
                onSuccess: () => {
                  say.done(`The setup is saved as “${name}”.`);
                  setTaken(name);
                  setName(undefined);
                },
                onError: say.trouble,
              },
            );
          }}
        >
          <div className="w-48">
            <TextField label="Name" value={name} onChange={(e) => setName(e.target.value)} />
          </div>
          <Button type="submit" disabled={!name.trim()}>
            Save
          </Button>
          <Button look="quiet" onClick={() => setName(undefined)}>
            Cancel
          </Button>
        </form>
      )}
      {taken && name === undefined && (
        <Button
          look="quiet"
          onClick={() => drop.mutate(taken, { onSuccess: () => setTaken(""), onError: say.trouble })}
        >
          Delete “{taken}”
        </Button>
      )}
    </div>
  );
}
