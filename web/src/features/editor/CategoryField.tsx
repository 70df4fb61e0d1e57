import { useState, type KeyboardEvent } from "react";
import { Refusal } from "../../api/client";
import { Button } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { Field, TextField } from "../../ui/Field";
import { useAddCategory } from "../blog/categories";

type Props = {
  site: string;
  value: number;
  categories: { id: number; name: string }[];
  /** Whether one may make a category. */
  editor: boolean;
  error: string | undefined;
  onChange: (id: number) => void;
};

const another = -1;

/** The category of a post; editors make one here. */
export function CategoryField({ site, value, categories, editor, error, onChange }: Props) {
  const [name, setName] = useState<string>();
  const add = useAddCategory(site);
  const refusal = add.error instanceof Refusal ? add.error : undefined;
  const options = [{ value: 0, name: "None" }, ...categories.map((c) => ({ value: c.id, name: c.name }))];

  function make() {
    add.mutate(name ?? "", {
      onSuccess: (made) => {
        onChange(made.id);
        setName(undefined);
      },
    });
  }
  function key(event: KeyboardEvent) {
    if (event.key === "Enter") {
      event.preventDefault();
      make();
    }
    if (event.key === "Escape") setName(undefined);
  }

  return (
    <>
      <Field label="Category" error={error}>
        <Choice
          label="Category"
          value={value}
          options={editor ? [...options, { value: another, name: "New category…" }] : options}
          onChange={(id) => (id === another ? setName("") : onChange(id))}
        />
      </Field>
      {name !== undefined && (
        <div className="flex items-start gap-2">
          <div className="min-w-0 flex-1">
            <TextField
              label="Name of the new category"
              hideLabel
              placeholder="Name of the new category"
              autoFocus
              dir="auto"
              value={name}
              error={refusal?.field("name") ?? refusal?.field("slug") ?? add.error?.message}
              onKeyDown={key}
              onChange={(e) => {
                add.reset();
                setName(e.target.value);
              }}
            />
          </div>
          <Button onClick={make} disabled={add.isPending}>
            Add
          </Button>
        </div>
      )}
    </>
  );
}
