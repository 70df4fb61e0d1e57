import { useState } from "react";
import { Refusal } from "../../api/client";
import { AddButton } from "../../ui/AddButton";
import { Button } from "../../ui/Button";
import { TextField } from "../../ui/Field";
import { Sheet } from "../../ui/Sheet";
import { TextArea } from "../../ui/TextArea";
import { Warning } from "../../ui/Trouble";
import { useTell } from "../logbook/useTell";
import { useListDeeds, type Channels } from "./channels";

type List = Channels["lists"][number];

/** Lists of words and sentences for alternatives in wordings. */
export function Lists({ site, lists, editor }: { site: string; lists: List[]; editor: boolean }) {
  const [open, setOpen] = useState<List>();
  return (
    <>
      {lists.length === 0 ? (
        <p className="mb-2 text-sm text-soft">No list yet.</p>
      ) : (
        <ul className="mb-2 divide-y divide-line border-y border-line">
          {lists.map((l) => (
            <li key={l.name} className="flex items-center gap-3 py-1 text-sm">
              <code className="shrink-0">{`{one-of:${l.name}}`}</code>
              <span className="min-w-0 flex-1 truncate text-soft">{l.entries.join(" · ")}</span>
              {editor && (
                <Button look="quiet" onClick={() => setOpen(l)}>
                  Edit<span className="sr-only"> {l.name}</span>…
                </Button>
              )}
            </li>
          ))}
        </ul>
      )}
      {editor && <AddButton onAdd={() => setOpen({ name: "", entries: [] })}>Add a list</AddButton>}
      {open && <ListSheet site={site} list={open} onClose={() => setOpen(undefined)} />}
    </>
  );
}

function ListSheet({ site, list, onClose }: { site: string; list: List; onClose: () => void }) {
  const [name, setName] = useState(list.name);
  const [text, setText] = useState(list.entries.join("\n"));
  const { save, remove } = useListDeeds(site);
  const tell = useTell(site);
  const fresh = list.name === "";
  const trouble = save.error ?? remove.error;
  const field = (at: string) => (save.error instanceof Refusal ? save.error.field(at) : undefined);
  const entries = text.split("\n").filter((line) => line.trim() !== "");
  const done = (what: string) => () => {
    tell(what);
    onClose();
  };
  return (
    <Sheet
      open
      onClose={onClose}
      title={fresh ? "New list" : `List “${list.name}”`}
      actions={
        <>
          {!fresh && (
            <Button
              className="mr-auto"
              disabled={remove.isPending}
              onClick={() =>
                remove
                  .mutateAsync(list.name)
                  .then(done(`The list “${list.name}” is deleted.`), () => undefined)
              }
            >
              Delete this list
            </Button>
          )}
          <Button onClick={onClose}>Cancel</Button>
          <Button
            look="main"
            disabled={name.trim() === "" || entries.length === 0 || save.isPending}
            onClick={() =>
              save
                .mutateAsync({ name: name.trim(), entries })
                .then(done(`The list “${name.trim()}” is saved.`), () => undefined)
            }
          >
            Save
          </Button>
        </>
      }
    >
      <div className="space-y-3">
        {trouble && !field("entries") && <Warning>{trouble.message}</Warning>}
        {fresh && (
          <TextField
            label="Name"
            placeholder="such as: greeting"
            value={name}
            maxLength={60}
            onChange={(e) => setName(e.target.value)}
          />
        )}
        <TextArea
          label="One word or sentence a line"
          hint="A line may have placeholders, and other lists."
          rows={8}
          value={text}
          error={field("entries")}
          onChange={(e) => setText(e.target.value)}
        />
      </div>
    </Sheet>
  );
}
