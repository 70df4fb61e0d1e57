import { useRef, useState } from "react";
import { X } from "lucide-react";
import { AddButton } from "../../ui/AddButton";
import { Button, IconButton } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { Field, TextField } from "../../ui/Field";
import { Fold } from "../../ui/Fold";
import { TextArea } from "../../ui/TextArea";
import { Tick } from "../../ui/Tick";
import type { Part } from "./SetupScreen";
import type { Recipe } from "./imports";

const fields: { key: string; name: string; long?: boolean }[] = [
  { key: "title", name: "Title" },
  { key: "body", name: "Text", long: true },
  { key: "excerpt", name: "Excerpt", long: true },
  { key: "category", name: "Category" },
  { key: "tags", name: "Tags" },
  { key: "author", name: "Author" },
  { key: "date", name: "Date" },
  { key: "slug", name: "Address" },
  { key: "picture", name: "Featured image" },
  { key: "alt", name: "What the image shows" },
  { key: "link", name: "Link" },
  { key: "kind", name: "Kind (post or page)" },
];

/** Those that few sheets have. */
const rare = ["slug", "picture", "alt", "link", "kind"];

/** Of an archive, what files seldom say. */
const ofFiles = ["category", "tags", "author", "date", "kind"];

/** What each field of the posts is made of. */
export function FillFields(part: Part) {
  const { setup, look, onChange } = part;
  const recipe = setup.recipe ?? {};
  const isSheet = look.kind === "sheet";
  const set = (change: Partial<Recipe>) => onChange({ recipe: { ...recipe, ...change } });
  const filled = fields.filter((f) => recipe.fill?.[f.key]?.text).map((f) => f.name);
  const [all, setAll] = useState(() => rare.some((key) => recipe.fill?.[key]));
  const shown = fields.filter((f) => (isSheet ? all || !rare.includes(f.key) : ofFiles.includes(f.key)));
  return (
    <Fold
      title="Fields"
      open={isSheet}
      summary={filled.join(", ") || (isSheet ? "none yet" : "as the files say")}
    >
      <p className="text-xs text-soft">
        {isSheet
          ? "Text, with columns in it. Choose a column to put it in; what stands around it is kept. A field whose columns are all empty stays empty."
          : "What the files say themselves goes first. Write here what they don't say, or tick Always."}
      </p>
      {shown.map((f) => (
        <Template key={f.key} {...part} field={f} onRecipe={set} />
      ))}
      {isSheet && !all && (
        <Button look="quiet" onClick={() => setAll(true)}>
          More fields: address, image, link, kind
        </Button>
      )}
      <CustomFields {...part} onRecipe={set} />
      <div className="w-64">
        <Field label="Texts are written in">
          <Choice
            label="Texts are written in"
            value={recipe.format ?? ""}
            options={[
              { value: "", name: isSheet ? "HTML or Markdown, found out" : "as the files say" },
              { value: "markdown", name: "Markdown" },
              { value: "html", name: "HTML" },
              { value: "text", name: "plain text" },
            ]}
            onChange={(format) => set({ format: format || undefined })}
          />
        </Field>
      </div>
    </Fold>
  );
}

type WithRecipe = Part & { onRecipe: (change: Partial<Recipe>) => void };

function Template({ setup, look, wrong, field, onRecipe }: WithRecipe & { field: (typeof fields)[number] }) {
  const recipe = setup.recipe ?? {};
  const own = recipe.fill?.[field.key] ?? { text: "" };
  const at = useRef<HTMLDivElement>(null);
  const set = (change: Partial<typeof own>) => {
    const fill = { ...recipe.fill, [field.key]: { ...own, ...change } };
    if (!fill[field.key]?.text && !fill[field.key]?.always) delete fill[field.key];
    onRecipe({ fill });
  };
  const insert = (column: string) => {
    const box = at.current?.querySelector<HTMLInputElement | HTMLTextAreaElement>("input, textarea");
    const place = `{column:${column}}`;
    const from = box?.selectionStart ?? own.text.length;
    set({ text: own.text.slice(0, from) + place + own.text.slice(box?.selectionEnd ?? from) });
    requestAnimationFrame(() => {
      box?.focus();
      box?.setSelectionRange(from + place.length, from + place.length);
    });
  };
  const props = {
    label: field.name,
    value: own.text,
    error: wrong(`recipe.fill.${field.key}`),
    placeholder: look.kind === "sheet" ? "empty" : "as the files say",
  };
  return (
    <div className="flex items-end gap-2" ref={at}>
      <div className="min-w-0 flex-1">
        {field.long ? (
          <TextArea {...props} rows={2} onChange={(e) => set({ text: e.target.value })} />
        ) : (
          <TextField {...props} onChange={(e) => set({ text: e.target.value })} />
        )}
      </div>
      {look.kind === "sheet" ? (
        <Columns label={field.name} headings={look.headings ?? []} onTake={insert} />
      ) : (
        <div className="pb-1.5">
          <Tick label="Always" on={own.always ?? false} onChange={(always) => set({ always })} />
        </div>
      )}
    </div>
  );
}

function Columns({
  label,
  headings,
  onTake,
}: {
  label: string;
  headings: string[];
  onTake: (h: string) => void;
}) {
  return (
    <div className="w-36">
      <Choice
        label={`Put a column into ${label}`}
        value=""
        options={[{ value: "", name: "Column…" }, ...headings.map((h) => ({ value: h, name: h }))]}
        onChange={(h) => h && onTake(h)}
      />
    </div>
  );
}

function CustomFields({ setup, look, wrong, onRecipe }: WithRecipe) {
  const all = Object.entries(setup.recipe?.fields ?? {});
  const put = (list: [string, string][]) => onRecipe({ fields: Object.fromEntries(list) });
  return (
    <div role="group" aria-label="Custom fields" className="space-y-2">
      {all.map(([name, text], n) => (
        <div key={n} className="flex items-end gap-2">
          <div className="w-36">
            <TextField
              label="Custom field"
              value={name}
              error={wrong("recipe.fields")}
              onChange={(e) => put(all.map((one, k) => (k === n ? [e.target.value, text] : one)))}
            />
          </div>
          <div className="min-w-0 flex-1">
            <TextField
              label={`What ${name || "it"} is`}
              value={text}
              error={wrong(`recipe.fields.${name}`)}
              onChange={(e) => put(all.map((one, k) => (k === n ? [name, e.target.value] : one)))}
            />
          </div>
          {look.kind === "sheet" && (
            <Columns
              label={name}
              headings={look.headings ?? []}
              onTake={(h) => put(all.map((one, k) => (k === n ? [name, `${text}{column:${h}}`] : one)))}
            />
          )}
          <IconButton label={`Remove ${name}`} onClick={() => put(all.filter((_, k) => k !== n))}>
            <X size={14} />
          </IconButton>
        </div>
      ))}
      <AddButton look="quiet" onAdd={() => put([...all, [freeName(all.map(([n]) => n)), ""]])}>
        Add a custom field
      </AddButton>
    </div>
  );
}

function freeName(names: string[]): string {
  let n = 1;
  while (names.includes(`field ${n}`)) n++;
  return `field ${n}`;
}
