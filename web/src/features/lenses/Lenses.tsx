import { X } from "lucide-react";
import { useState, type FormEvent } from "react";
import { Button, IconButton } from "../../ui/Button";
import { useCommands } from "../../ui/commands";
import { TextField } from "../../ui/Field";
import { useSay } from "../../ui/toast";
import { useDropLens, useKeepLens, useLenses, type Lens, type LensShown } from "./lenses";

type Props = {
  site: string;
  /** Only lenses of this screen are listed. */
  screen: "plan" | "posts";
  /** What is shown, asked as a lens is saved: what is drawn may be behind what was just chosen. */
  shown: () => LensShown;
  /** What a lens saves, as a sentence. */
  what: string;
  onLook: (lens: Lens) => void;
};

const fits = (lens: Lens, screen: "plan" | "posts") => lens[screen] !== undefined;

/** Named views: look through one, save the present one, delete one. */
export function Lenses({ site, screen, shown, what, onLook }: Props) {
  const lenses = useLenses(site).data?.filter((l) => fits(l, screen));
  const keep = useKeepLens(site);
  const drop = useDropLens(site);
  const say = useSay();
  const [name, setName] = useState("");

  function submit(event: FormEvent) {
    event.preventDefault();
    keep
      .mutateAsync({ name, ...shown() })
      .then(() => {
        say.done(`Lens “${name.trim()}” saved.`);
        setName("");
      })
      .catch(say.trouble);
  }

  return (
    <section aria-label="Lenses">
      <h2 className="mb-1 text-sm font-semibold">Lenses</h2>
      {lenses?.length ? (
        <ul className="mb-2 max-h-48 overflow-y-auto">
          {lenses.map((l) => (
            <li key={l.id} className="flex items-center">
              <button
                type="button"
                onClick={() => onLook(l)}
                className="h-7 min-w-0 flex-1 truncate rounded-md px-2 text-left text-sm hover:bg-sunk"
              >
                {l.name}
              </button>
              <IconButton
                label={`Delete the lens “${l.name}”`}
                onClick={() => drop.mutate(l.id, { onError: say.trouble })}
              >
                <X size={12} />
              </IconButton>
            </li>
          ))}
        </ul>
      ) : (
        <p className="mb-2 text-xs text-soft">{what}</p>
      )}
      <form onSubmit={submit} className="flex items-end gap-2">
        <TextField
          label="Save this view as"
          value={name}
          maxLength={60}
          onChange={(e) => setName(e.target.value)}
        />
        <Button type="submit" disabled={!name.trim() || keep.isPending}>
          Save
        </Button>
      </form>
    </section>
  );
}

/** Offers one's lenses in the palette. */
export function useLensCommands(site: string, screen: "plan" | "posts", onLook: (lens: Lens) => void) {
  const lenses = (useLenses(site).data ?? []).filter((l) => fits(l, screen));
  useCommands(
    lenses.map((l) => ({ name: `Look through “${l.name}”`, group: "Lenses", run: () => onLook(l) })),
  );
}
