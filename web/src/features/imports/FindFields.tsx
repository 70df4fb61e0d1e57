import { X } from "lucide-react";
import { AddButton } from "../../ui/AddButton";
import { IconButton } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { Field, TextField } from "../../ui/Field";
import { Fold } from "../../ui/Fold";
import { OptionalNumberField } from "../../ui/NumberField";
import { Tick } from "../../ui/Tick";
import { useCategories } from "../blog/categories";
import type { Part } from "./SetupScreen";
import { WordsField } from "./WordsField";
import type { Recipe, TopicWords } from "./imports";

/** Categories and tags found by words, and what lines must have. */
export function FindFields({ site, setup, wrong, onChange }: Part) {
  const recipe = setup.recipe ?? {};
  const set = (change: Partial<Recipe>) => onChange({ recipe: { ...recipe, ...change } });
  const categories = useCategories(site);
  const range = (of: "title" | "body", end: "fewest" | "most") => (n: number | undefined) =>
    set({ [of]: { ...recipe[of], [end]: n } });
  const found = (recipe.categories?.length ?? 0) + (recipe.tags?.length ?? 0);
  const bounds = [recipe.title, recipe.body].flatMap((r) => [r?.fewest, r?.most]);
  const asks = [recipe.must?.length, recipe.mustNot?.length, ...bounds].some(Boolean);
  return (
    <>
      <Fold title="Categories and tags by words" summary={found ? `${found} word lists` : "none"}>
        <Tick
          label="Add categories that the blog doesn't have"
          on={recipe.newCategories ?? false}
          onChange={(newCategories) => set({ newCategories })}
        />
        <p className="text-xs text-soft">
          A line without a category gets the first whose words it has; it gets every tag whose words it has.
        </p>
        <Topics
          of="Category"
          all={recipe.categories ?? []}
          names={categories.data?.map((c) => c.name)}
          wrong={(n, field) => wrong(`recipe.categories[${n}].${field}`)}
          onChange={(all) => set({ categories: all })}
        />
        <Topics
          of="Tag"
          all={recipe.tags ?? []}
          wrong={(n, field) => wrong(`recipe.tags[${n}].${field}`)}
          onChange={(tags) => set({ tags })}
        />
      </Fold>
      <Fold title="Which lines" summary={asks ? "some are left out" : "all"}>
        <WordsField
          label="Must have all of these words"
          values={recipe.must ?? []}
          error={wrong("recipe.must")}
          onChange={(must) => set({ must })}
        />
        <WordsField
          label="Must have none of these words"
          values={recipe.mustNot ?? []}
          error={wrong("recipe.mustNot")}
          onChange={(mustNot) => set({ mustNot })}
        />
        <div className="flex flex-wrap gap-3">
          {(["title", "body"] as const).map((of) =>
            (["fewest", "most"] as const).map((end) => (
              <div key={of + end} className="w-36">
                <OptionalNumberField
                  label={`${end === "fewest" ? "Fewest" : "Most"} words, ${of === "title" ? "title" : "text"}`}
                  placeholder="any"
                  value={recipe[of]?.[end]}
                  error={end === "most" ? wrong(`recipe.${of}`) : undefined}
                  onChange={range(of, end)}
                />
              </div>
            )),
          )}
        </div>
      </Fold>
    </>
  );
}

type TopicsProps = {
  of: string;
  all: TopicWords[];
  /** Those to choose from; undefined: any name. */
  names?: string[] | undefined;
  wrong: (n: number, field: string) => string | undefined;
  onChange: (all: TopicWords[]) => void;
};

function Topics({ of, all, names, wrong, onChange }: TopicsProps) {
  const set = (n: number, change: Partial<TopicWords>) =>
    onChange(all.map((t, k) => (k === n ? { ...t, ...change } : t)));
  return (
    <div role="group" aria-label={`${of} by words`} className="space-y-2">
      {all.map((t, n) => (
        <div key={n} className="flex items-end gap-2">
          <div className="w-40">
            {names ? (
              <Field label={of} error={wrong(n, "name")}>
                <Choice
                  label={of}
                  value={t.name}
                  options={names.map((c) => ({ value: c, name: c }))}
                  onChange={(name) => set(n, { name })}
                />
              </Field>
            ) : (
              <TextField
                label={of}
                value={t.name}
                error={wrong(n, "name")}
                onChange={(e) => set(n, { name: e.target.value })}
              />
            )}
          </div>
          <div className="min-w-0 flex-1">
            <WordsField
              label="where one of these words occurs"
              values={t.words ?? []}
              error={wrong(n, "words")}
              onChange={(words) => set(n, { words })}
            />
          </div>
          <IconButton label={`Remove ${t.name}`} onClick={() => onChange(all.filter((_, k) => k !== n))}>
            <X size={14} />
          </IconButton>
        </div>
      ))}
      <AddButton look="quiet" onAdd={() => onChange([...all, { name: names?.[0] ?? "", words: [] }])}>
        Add a {of.toLowerCase()}
      </AddButton>
    </div>
  );
}
