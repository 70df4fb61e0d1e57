import { useState } from "react";
import { Refusal } from "../../api/client";
import { Button } from "../../ui/Button";
import { TextField } from "../../ui/Field";
import { Sheet } from "../../ui/Sheet";
import { TextArea } from "../../ui/TextArea";
import { useSay } from "../../ui/toast";
import { Warning } from "../../ui/Trouble";
import { showWrong } from "../../ui/useFormOf";
import { useSaveCategory, type Category } from "../blog/categories";

type Props = { site: string; category: Category; onClose: () => void };

/** A category's name, its address and what it is about. */
export function CategorySheet({ site, category, onClose }: Props) {
  const [name, setName] = useState(category.name);
  const [slug, setSlug] = useState(category.slug);
  const [description, setDescription] = useState(category.description);
  const save = useSaveCategory(site, category.id);
  const say = useSay();
  const refusal = save.error instanceof Refusal ? save.error : undefined;
  return (
    <Sheet
      open
      onClose={onClose}
      title={`Change ${category.name}`}
      actions={
        <>
          <Button onClick={onClose}>Cancel</Button>
          <Button
            look="main"
            disabled={save.isPending}
            onClick={() =>
              save.mutate(
                { name, slug, description },
                {
                  onSuccess: () => {
                    onClose();
                    say.done("Category saved.");
                  },
                  onError: () => showWrong(),
                },
              )
            }
          >
            Save category
          </Button>
        </>
      }
    >
      {save.error && !refusal?.problem.errors && <Warning>{save.error.message}</Warning>}
      <div className="max-w-md space-y-3">
        <TextField
          label="Name"
          dir="auto"
          hint={category.rules.length > 0 ? `Rules that name it go along: ${named(category)}.` : undefined}
          value={name}
          error={refusal?.field("name")}
          onChange={(e) => setName(e.target.value)}
        />
        <TextField
          label="Name in its address"
          spellCheck={false}
          autoCapitalize="none"
          hint="After a change, old links lead on to the new address. Empty: made from the name."
          value={slug}
          error={refusal?.field("slug")}
          onChange={(e) => setSlug(e.target.value)}
        />
        <TextArea
          label="Description"
          hint="Readers see it above the posts of the category."
          rows={3}
          value={description}
          error={refusal?.field("description")}
          onChange={(e) => setDescription(e.target.value)}
        />
      </div>
    </Sheet>
  );
}

/** What becomes of lenses that filter by something that is deleted, or merged into another. */
export function lensesOf(n: number, into: string | undefined): string {
  const lenses = n === 1 ? "1 lens that filters" : `${n} lenses that filter`;
  const verb = n === 1 ? "shows" : "show";
  return into ? `${lenses} by it will filter by ${into}.` : `${lenses} by it ${verb} nothing from then on.`;
}

/** The rules that name something. */
export const named = (c: { rules: Category["rules"] }) => c.rules.map((r) => `“${r.name}”`).join(", ");
