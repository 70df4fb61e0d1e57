import { useState } from "react";
import { Refusal } from "../../api/client";
import { Button } from "../../ui/Button";
import { TextField } from "../../ui/Field";
import { Sheet } from "../../ui/Sheet";
import { useSay } from "../../ui/toast";
import { Warning } from "../../ui/Trouble";
import { useRenameTag, type Tag } from "../blog/tags";
import { named } from "./CategorySheet";

type Props = { site: string; tag: Tag; onClose: () => void };

/** Gives a tag another name. */
export function RenameTag({ site, tag, onClose }: Props) {
  const [name, setName] = useState(tag.name);
  const rename = useRenameTag(site, tag.id);
  const say = useSay();
  const refusal = rename.error instanceof Refusal ? rename.error : undefined;
  return (
    <Sheet
      open
      onClose={onClose}
      title={`Rename ${tag.name}`}
      actions={
        <>
          <Button onClick={onClose}>Cancel</Button>
          <Button
            look="main"
            disabled={rename.isPending || name.trim() === tag.name}
            onClick={() =>
              rename.mutate(name, {
                onSuccess: () => {
                  onClose();
                  say.done("Tag renamed.");
                },
              })
            }
          >
            Rename
          </Button>
        </>
      }
    >
      {rename.error && !refusal?.problem.errors && <Warning>{rename.error.message}</Warning>}
      <div className="mb-4 max-w-md">
        <TextField
          label="Name"
          dir="auto"
          value={name}
          error={refusal?.field("name")}
          onChange={(e) => setName(e.target.value)}
        />
      </div>
      <ul className="list-disc space-y-1 pl-5">
        <li>
          {tag.posts === 0
            ? "No posts have it."
            : tag.posts === 1
              ? "Its post has the new name, and a new version in its history."
              : `Its ${tag.posts} posts have the new name, and a new version each in their history.`}
        </li>
        <li>Old links to it lead on.</li>
        {tag.rules.length > 0 && <li>Rules that name it go along: {named(tag)}.</li>}
      </ul>
    </Sheet>
  );
}
