import { GripVertical } from "lucide-react";
import { Button as DragHandle, GridList, GridListItem, useDragAndDrop } from "react-aria-components";
import { Button } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { Part } from "../../ui/Part";
import { SaveButton } from "../../ui/SaveButton";
import { anything } from "../../ui/schema";
import { useKept } from "../../ui/useKept";
import { Tick } from "../../ui/Tick";
import { Trouble, Warning } from "../../ui/Trouble";
import { Unsaved } from "../../ui/Unsaved";
import { Waiting } from "../../ui/Waiting";
import { useTell } from "../logbook/useTell";
import { useOwner } from "../session/session";
import { useAppearance, useSaveAppearance, type Appearance, type MenuItem } from "./appearance";

type Offered = NonNullable<Appearance["offered"]>[number];

const keyOf = ({ kind, id }: MenuItem) => `${kind} ${id}`;

/** What the blog's menu leads to, and in which order. */
export function MenuSettings({ site }: { site: string }) {
  const appearance = useAppearance(site);
  if (appearance.isPending) return <Waiting what="the menu" />;
  if (appearance.error) return <Trouble error={appearance.error} retry={() => void appearance.refetch()} />;
  return <MenuForm key={site} site={site} saved={appearance.data} />;
}

/** What is chosen of what may be in the menu, as keys: which of it, and the order of all of it. */
type Chosen = { version: number; whole: boolean; menu: string[]; order: string[] };

/** What is in the menu comes first. */
function asForm({ version, whole, menu, offered }: Appearance): Chosen {
  const chosen = menu.map(keyOf);
  const rest = (offered ?? []).map(keyOf).filter((key) => !chosen.includes(key));
  return { version, whole, menu: chosen, order: [...chosen, ...rest] };
}

const itemsOf = ({ order, menu }: Chosen, offered: Offered[]) =>
  order.filter((key) => menu.includes(key)).flatMap((key) => offered.find((o) => keyOf(o) === key) ?? []);

function MenuForm({ site, saved }: { site: string; saved: Appearance }) {
  const owner = useOwner(site);
  const offered = saved.offered ?? [];
  const form = useKept(anything<Chosen>(), asForm(saved));
  const { whole, menu, order } = form.values;
  const save = useSaveAppearance(site);
  const tell = useTell(site);
  const chosen = order.filter((key) => menu.includes(key));
  const changed = whole !== saved.whole || (!whole && chosen.join() !== saved.menu.map(keyOf).join());
  const items = order.flatMap((key) => offered.find((o) => keyOf(o) === key) ?? []);

  function choose(all: boolean) {
    const seen = offered.filter((o) => o.seen).map(keyOf);
    form.set({ whole: all, ...(!all && menu.length === 0 ? { menu: seen } : {}) });
  }
  async function store(next: Chosen) {
    const asked = itemsOf(next, offered).map(({ kind, id }) => ({ kind, id }));
    const kept = await save.mutateAsync({
      ...saved,
      whole: next.whole,
      menu: asked,
      version: next.version,
    });
    tell("Menu saved.");
    return asForm(kept);
  }
  return (
    <>
      <div className="mb-4 flex items-center gap-3">
        <Unsaved when={changed} what="the menu" />
        <h1 className="font-title text-2xl">Menu</h1>
        {owner && (
          <div className="ml-auto flex gap-2">
            {changed && <Button onClick={() => form.take(asForm(saved))}>Discard changes</Button>}
            <SaveButton
              name="Save menu"
              disabled={!changed || save.isPending}
              onSave={() => form.save(store)}
            />
          </div>
        )}
      </div>
      {save.error && <Warning>{save.error.message}</Warning>}
      {!owner && <p className="mb-3 text-sm text-soft">Only owners of this blog change these.</p>}
      <Part title="Items" hint="The menu stands under the title on every page of the blog.">
        <div className="max-w-md space-y-3">
          <Choice
            label="Items"
            value={whole ? "all" : "chosen"}
            options={[
              { value: "all", name: "every category that has posts, then every page" },
              { value: "chosen", name: "what I choose below" },
            ]}
            onChange={(to) => owner && choose(to === "all")}
          />
          {!whole && offered.length === 0 && (
            <p className="rounded-md border border-dashed border-strong px-3 py-4 text-sm text-soft">
              There is nothing to choose from yet. Add a category under Categories, or write a page.
            </p>
          )}
          {!whole && offered.length > 0 && (
            <Items
              items={items}
              menu={menu}
              owner={owner}
              onOrder={(to) => form.set({ order: to })}
              onMenu={(to) => form.set({ menu: to })}
            />
          )}
        </div>
      </Part>
    </>
  );
}

type ItemsProps = {
  items: Offered[];
  menu: string[];
  owner: boolean;
  onOrder: (order: string[]) => void;
  onMenu: (menu: string[]) => void;
};

/** Categories and pages to tick and to put in order, by dragging or by keys. */
function Items({ items, menu, owner, onOrder, onMenu }: ItemsProps) {
  const keys = items.map(keyOf);
  const { dragAndDropHooks } = useDragAndDrop({
    getItems: (dragged) => [...dragged].map((key) => ({ "text/plain": String(key) })),
    onReorder: ({ keys: moved, target }) => {
      const rest = keys.filter((key) => !moved.has(key));
      const at = rest.indexOf(String(target.key)) + (target.dropPosition === "after" ? 1 : 0);
      rest.splice(at, 0, ...keys.filter((key) => moved.has(key)));
      onOrder(rest);
    },
  });
  return (
    <GridList
      aria-label="Menu"
      items={items.map((item) => ({ ...item, key: keyOf(item), on: menu.includes(keyOf(item)) }))}
      selectionMode="none"
      {...(owner ? { dragAndDropHooks } : {})}
      className="divide-y divide-line rounded-md border border-line bg-sheet"
    >
      {(item) => (
        <GridListItem
          id={item.key}
          textValue={item.name}
          className="flex min-h-10 items-center gap-2 px-2 py-1 data-dragging:opacity-50"
        >
          {owner && (
            <DragHandle
              slot="drag"
              aria-label={`Move ${item.name}`}
              className="inline-flex size-7 shrink-0 cursor-grab items-center justify-center rounded-md text-soft hover:bg-sunk"
            >
              <GripVertical size={14} />
            </DragHandle>
          )}
          <Tick
            label={item.name || "Untitled"}
            on={item.on}
            onChange={(on) => owner && onMenu(on ? [...menu, item.key] : menu.filter((k) => k !== item.key))}
          />
          <span className="ml-auto text-right text-xs text-soft">
            {item.kind === "page" ? "page" : "category"}
            {!item.seen && (item.kind === "page" ? ", not out yet" : ", no posts yet")}
          </span>
        </GridListItem>
      )}
    </GridList>
  );
}
