import { X } from "lucide-react";
import { AddButton } from "../../ui/AddButton";
import { IconButton } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { Field, TextField } from "../../ui/Field";
import { Fold } from "../../ui/Fold";
import { OptionalNumberField } from "../../ui/NumberField";
import { Tick } from "../../ui/Tick";
import type { Part } from "./SetupScreen";
import { WordsField } from "./WordsField";
import type { HouseLink, Recipe } from "./imports";

/** What is taken out of texts and put in, pictures, comments and the order. */
export function CleanFields({ setup, wrong, onChange }: Part) {
  const recipe = setup.recipe ?? {};
  const set = (change: Partial<Recipe>) => onChange({ recipe: { ...recipe, ...change } });
  const links = recipe.links ?? [];
  const cleans = [
    recipe.remove?.length && "elements removed",
    recipe.stripLinks && "links removed",
    links.length && `${links.length} house ${links.length === 1 ? "link" : "links"}`,
  ].filter(Boolean);
  return (
    <>
      <Fold title="Texts" summary={cleans.join(", ") || "as they are; HTML becomes Markdown"}>
        <WordsField
          label="Remove elements (CSS selectors, such as .advert or footer)"
          values={recipe.remove ?? []}
          error={wrong("recipe.remove")}
          onChange={(remove) => set({ remove })}
        />
        <Tick
          label="Remove links, and keep their texts"
          on={recipe.stripLinks ?? false}
          onChange={(stripLinks) => set({ stripLinks })}
        />
        <p className="text-xs text-soft">
          House links make a word a link, never within a heading or another link.{" "}
          <code>{"{one-of:NAME}"}</code> in a text takes an entry of your word list of that name, for each
          post another.
        </p>
        <Links links={links} wrong={wrong} onChange={(all) => set({ links: all })} />
      </Fold>
      <Fold title="Pictures, comments, order" summary={restOf(recipe)}>
        <div className="flex flex-wrap gap-3">
          <div className="w-56">
            <Field label="Without a featured image">
              <Choice
                label="Without a featured image"
                value={recipe.noPicture ?? ""}
                options={[
                  { value: "", name: "bring it in without" },
                  { value: "default", name: "take this one" },
                  { value: "leave", name: "leave the line out" },
                ]}
                onChange={(noPicture) => set({ noPicture: noPicture || undefined })}
              />
            </Field>
          </div>
          {recipe.noPicture === "default" && (
            <div className="min-w-56 flex-1">
              <TextField
                label="Address of the image"
                placeholder="of a picture of the library, or https://…"
                value={recipe.pictureElse ?? ""}
                error={wrong("recipe.pictureElse")}
                onChange={(e) => set({ pictureElse: e.target.value })}
              />
            </div>
          )}
          <div className="w-44">
            <Field label="Comments">
              <Choice
                label="Comments"
                value={recipe.comments ?? ""}
                options={[
                  { value: "", name: "as the blog has it" },
                  { value: "open", name: "open" },
                  { value: "closed", name: "closed" },
                ]}
                onChange={(comments) => set({ comments: comments || undefined })}
              />
            </Field>
          </div>
          <div className="w-44">
            <Field label="In order">
              <Choice
                label="In order"
                value={recipe.shuffled ? "shuffled" : "source"}
                options={[
                  { value: "source", name: "of the source" },
                  { value: "shuffled", name: "shuffled" },
                ]}
                onChange={(order) => set({ shuffled: order === "shuffled" })}
              />
            </Field>
          </div>
          <div className="w-44">
            <OptionalNumberField
              label="Chance number"
              placeholder="none"
              hint="Another number shuffles and varies differently."
              value={recipe.seed}
              onChange={(seed) => set({ seed })}
            />
          </div>
        </div>
      </Fold>
    </>
  );
}

function restOf(r: Recipe): string {
  const picture = { "": "", default: "a default image", leave: "lines without an image left out" }[
    r.noPicture ?? ""
  ];
  return (
    [picture, r.comments && `comments ${r.comments}`, r.shuffled && "shuffled"].filter(Boolean).join(", ") ||
    "as they come"
  );
}

type LinksProps = {
  links: HouseLink[];
  wrong: (field: string) => string | undefined;
  onChange: (links: HouseLink[]) => void;
};

function Links({ links, wrong, onChange }: LinksProps) {
  const set = (n: number, change: Partial<HouseLink>) =>
    onChange(links.map((l, k) => (k === n ? { ...l, ...change } : l)));
  return (
    <div role="group" aria-label="House links" className="space-y-2">
      {links.map((l, n) => (
        <div key={n} className="flex items-end gap-2">
          <div className="w-36">
            <TextField
              label="Word"
              value={l.word}
              error={wrong(`recipe.links[${n}].word`)}
              onChange={(e) => set(n, { word: e.target.value })}
            />
          </div>
          <div className="min-w-0 flex-1">
            <TextField
              label="Leads to"
              placeholder="https://… or /blog/…"
              value={l.address}
              error={wrong(`recipe.links[${n}].address`)}
              onChange={(e) => set(n, { address: e.target.value })}
            />
          </div>
          <div className="w-28">
            <OptionalNumberField
              label="Times a post"
              placeholder="once"
              value={l.most}
              error={wrong(`recipe.links[${n}].most`)}
              onChange={(most) => set(n, { most })}
            />
          </div>
          <IconButton label={`Remove ${l.word}`} onClick={() => onChange(links.filter((_, k) => k !== n))}>
            <X size={14} />
          </IconButton>
        </div>
      ))}
      <AddButton look="quiet" onAdd={() => onChange([...links, { word: "", address: "" }])}>
        Add a house link
      </AddButton>
    </div>
  );
}
