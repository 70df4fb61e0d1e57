import { useState, type ReactNode } from "react";
import { Refusal } from "../../api/client";
import { Button } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { Field, TextField } from "../../ui/Field";
import { Segments } from "../../ui/Segments";
import { Sheet } from "../../ui/Sheet";
import { useSay } from "../../ui/toast";
import { Warning } from "../../ui/Trouble";
import { FolderFields } from "./FolderFields";
import {
  bodyOf,
  useDestinationDeeds,
  type Destination,
  type DestinationBody,
  type Destinations,
} from "./destinations";

type Props = {
  site: string;
  all: Destinations;
  editing: Destination | Destination["kind"];
  onClose: () => void;
};

const fresh: DestinationBody = {
  name: "",
  posts: "posts/{slug}.md",
  pages: "pages/{slug}.md",
  pictures: "pictures",
  pictureLink: "",
  address: "",
  archived: "keep",
};

/** A folder or a site, and what goes there. */
export function DestinationSheet({ site, all, editing, onClose }: Props) {
  const known = typeof editing === "string" ? undefined : editing;
  const kind = typeof editing === "string" ? editing : editing.kind;
  const first = all.sites[0];
  const [body, setBody] = useState<DestinationBody>(
    known ? bodyOf(known) : { ...fresh, name: kind === "micropub" ? (first?.name ?? "") : "" },
  );
  const [folder, setFolder] = useState(known?.folder ?? site);
  const [channel, setChannel] = useState(first?.channel ?? 0);
  const [existing, setExisting] = useState(true);
  const { add, save } = useDestinationDeeds(site);
  const say = useSay();
  const trouble = add.error ?? save.error;
  const refusal = trouble instanceof Refusal ? trouble : undefined;
  const error = (field: string) => refusal?.field(field);
  const set = (change: Partial<DestinationBody>) => setBody((b) => ({ ...b, ...change }));

  function go() {
    const doing = known
      ? save.mutateAsync({ ...body, id: known.id, on: known.on, version: known.version })
      : kind === "folder"
        ? add.mutateAsync({ ...body, kind, folder, existing })
        : add.mutateAsync({ name: body.name, archived: body.archived, kind, channel, existing });
    doing.then(
      () => {
        say.done(known ? "Saved." : "Posts are on their way.");
        onClose();
      },
      () => undefined,
    );
  }

  const what = kind === "folder" ? "folder" : "site";
  return (
    <Sheet
      open
      wide
      onClose={onClose}
      title={known ? `Edit ${known.name}` : `Posts go to a ${what}`}
      actions={
        <>
          <Button onClick={onClose}>Cancel</Button>
          <Button look="main" disabled={add.isPending || save.isPending || !body.name.trim()} onClick={go}>
            {known ? "Save" : `Add the ${what}`}
          </Button>
        </>
      }
    >
      <div className="space-y-4">
        {trouble && !refusal?.problem.errors && <Warning>{trouble.message}</Warning>}
        {error("kind") && <Warning>{error("kind")}</Warning>}
        <div className="grid gap-3 sm:grid-cols-2">
          <TextField
            label="Name"
            placeholder={kind === "folder" ? "such as: static site" : "such as: my own site"}
            value={body.name}
            error={error("name")}
            onChange={(e) => set({ name: e.target.value })}
          />
          {kind === "micropub" && !known && (
            <Field label="Site" error={error("channel")}>
              <Choice
                label="Site"
                value={channel}
                options={all.sites.map((s) => ({ value: s.channel, name: s.home || s.name }))}
                onChange={setChannel}
              />
            </Field>
          )}
        </div>
        {kind === "folder" && (
          <FolderFields
            body={body}
            set={set}
            error={error}
            placeholders={all.placeholders}
            folder={known ? undefined : folder}
            onFolder={setFolder}
          />
        )}
        <div className="flex flex-wrap gap-x-8 gap-y-3">
          <Labelled label="Archived posts there">
            <Segments
              label="Archived posts there"
              value={body.archived}
              options={[
                { value: "keep", name: "Stay, with their notice" },
                { value: "remove", name: "Are removed" },
              ]}
              onChange={(archived) => set({ archived })}
            />
          </Labelled>
          {!known && (
            <Labelled label="Begin with">
              <Segments
                label="Begin with"
                value={existing ? "all" : "new"}
                options={[
                  { value: "all", name: "All posts that are out" },
                  { value: "new", name: "Posts from now on" },
                ]}
                onChange={(to) => setExisting(to === "all")}
              />
            </Labelled>
          )}
        </div>
      </div>
    </Sheet>
  );
}

/** A choice with its label shown above it. */
function Labelled({ label, children }: { label: string; children: ReactNode }) {
  return (
    <div>
      <p className="mb-1 text-sm text-soft">{label}</p>
      {children}
    </div>
  );
}
