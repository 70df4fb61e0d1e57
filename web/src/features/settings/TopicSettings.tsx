import { GripVertical, Plus } from "lucide-react";
import { useState, type FormEvent } from "react";
import { Button as DragHandle, GridList, GridListItem, useDragAndDrop } from "react-aria-components";
import { Refusal } from "../../api/client";
import { Button } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { TextField } from "../../ui/Field";
import { Part } from "../../ui/Part";
import { useSay } from "../../ui/toast";
import { Trouble } from "../../ui/Trouble";
import { Waiting } from "../../ui/Waiting";
import { usePlanner } from "../session/session";
import {
  useAddCategory,
  useCategories,
  useDefaultCategory,
  useOrderCategories,
  type Category,
} from "../blog/categories";
import { CategorySheet } from "./CategorySheet";
import { DeleteCategory } from "./DeleteCategory";

/** The blog's categories: made, named, put in order, merged, deleted. */
export function TopicSettings({ site }: { site: string }) {
  const categories = useCategories(site);
  const editor = usePlanner(site);
  if (categories.isPending) return <Waiting what="the categories" />;
  if (categories.error) return <Trouble error={categories.error} retry={() => void categories.refetch()} />;
  return (
    <>
      <h1 className="mb-4 font-title text-2xl">Categories</h1>
      <Part
        title="Categories"
        hint="Readers see them in this order in the blog’s menu, once posts are out in them."
      >
        {categories.data.length === 0 ? (
          <p className="mb-3 rounded-md border border-dashed border-strong px-3 py-4 text-sm text-soft">
            There are no categories yet. Add two or three that your posts fall into; rules, limits and the
            rhythm can go by them.
          </p>
        ) : (
          <Ordered site={site} categories={categories.data} editor={editor} />
        )}
        {editor && <Add site={site} />}
      </Part>
      {editor && categories.data.length > 0 && (
        <Part title="New drafts" hint="The category a draft has until you choose another.">
          <Default site={site} categories={categories.data} />
        </Part>
      )}
    </>
  );
}

function Ordered({ site, categories, editor }: { site: string; categories: Category[]; editor: boolean }) {
  const order = useOrderCategories(site);
  const say = useSay();
  const [open, setOpen] = useState<{ id: number; to: "change" | "delete" }>();
  // While the server is being told, the new order is shown already.
  const ids = order.isPending ? order.variables : categories.map((c) => c.id);
  const shown = ids.flatMap((id) => categories.find((c) => c.id === id) ?? []);
  const { dragAndDropHooks } = useDragAndDrop({
    getItems: (keys) => [...keys].map((key) => ({ "text/plain": String(key) })),
    onReorder: ({ keys, target }) => {
      const moved = ids.filter((id) => keys.has(id));
      const rest = ids.filter((id) => !keys.has(id));
      const at = rest.indexOf(target.key as number) + (target.dropPosition === "after" ? 1 : 0);
      rest.splice(at, 0, ...moved);
      order.mutate(rest, { onError: say.trouble });
    },
  });
  const chosen = categories.find((c) => c.id === open?.id);
  return (
    <>
      <GridList
        aria-label="Categories"
        items={shown}
        selectionMode="none"
        {...(editor ? { dragAndDropHooks } : {})}
        className="mb-3 divide-y divide-line rounded-md border border-line bg-sheet"
      >
        {(c) => (
          <GridListItem
            id={c.id}
            textValue={c.name}
            className="flex min-h-11 flex-wrap items-center gap-x-2 px-2 py-1.5 data-dragging:opacity-50"
          >
            {editor && (
              <DragHandle
                slot="drag"
                aria-label={`Move ${c.name}`}
                className="inline-flex size-7 shrink-0 cursor-grab items-center justify-center rounded-md text-soft hover:bg-sunk"
              >
                <GripVertical size={14} />
              </DragHandle>
            )}
            <div className="min-w-44 flex-1">
              <p className="truncate font-semibold" dir="auto">
                {c.name}
                {c.default && <span className="font-normal text-soft"> · new drafts</span>}
              </p>
              <p className="text-sm text-soft">{uses(c)}</p>
            </div>
            {editor && (
              <>
                <Button
                  look="quiet"
                  aria-label={`Change ${c.name}…`}
                  onClick={() => setOpen({ id: c.id, to: "change" })}
                >
                  Change…
                </Button>
                <Button
                  look="quiet"
                  aria-label={`Delete or merge ${c.name}…`}
                  onClick={() => setOpen({ id: c.id, to: "delete" })}
                >
                  Delete or merge…
                </Button>
              </>
            )}
          </GridListItem>
        )}
      </GridList>
      {chosen && open?.to === "change" && (
        <CategorySheet site={site} category={chosen} onClose={() => setOpen(undefined)} />
      )}
      {chosen && open?.to === "delete" && (
        <DeleteCategory
          site={site}
          category={chosen}
          others={categories.filter((c) => c.id !== chosen.id)}
          onClose={() => setOpen(undefined)}
        />
      )}
    </>
  );
}

/** What refers to a category, in a few words. */
function uses(c: Category): string {
  const said = [c.posts === 1 ? "1 post" : c.posts > 0 ? `${c.posts} posts` : "no posts"];
  if (c.openings > 0) said.push(c.openings === 1 ? "1 opening" : `${c.openings} openings`);
  if (c.rules.length > 0) said.push(c.rules.length === 1 ? "1 rule" : `${c.rules.length} rules`);
  return said.join(" · ");
}

function Add({ site }: { site: string }) {
  const [name, setName] = useState("");
  const add = useAddCategory(site);
  const refusal = add.error instanceof Refusal ? add.error : undefined;
  function submit(event: FormEvent) {
    event.preventDefault();
    add.mutate(name, { onSuccess: () => setName("") });
  }
  return (
    <form onSubmit={submit} noValidate className="flex max-w-md items-start gap-2">
      <div className="min-w-0 flex-1">
        <TextField
          label="New category"
          hideLabel
          placeholder="New category"
          dir="auto"
          value={name}
          error={refusal?.field("name") ?? refusal?.field("slug") ?? add.error?.message}
          onChange={(e) => {
            add.reset();
            setName(e.target.value);
          }}
        />
      </div>
      <Button type="submit" icon={<Plus size={14} />} disabled={add.isPending}>
        Add
      </Button>
    </form>
  );
}

function Default({ site, categories }: { site: string; categories: Category[] }) {
  const save = useDefaultCategory(site);
  const say = useSay();
  const now = categories.find((c) => c.default)?.id ?? 0;
  return (
    <div className="w-64 max-w-full">
      <Choice
        label="New drafts begin in"
        value={save.isPending ? save.variables : now}
        options={[
          { value: 0, name: "No category" },
          ...categories.map((c) => ({ value: c.id, name: c.name })),
        ]}
        onChange={(id) => save.mutate(id, { onError: say.trouble })}
      />
    </div>
  );
}
