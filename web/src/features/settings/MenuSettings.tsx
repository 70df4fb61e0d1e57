import { GripVertical } from "lucide-react";
import { useState } from "react";
import { Button as DragHandle, GridList, GridListItem, useDragAndDrop } from "react-aria-components";
import { Button } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { Part } from "../../ui/Part";
import { SaveButton } from "../../ui/SaveButton";
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
  return <MenuForm key={appearance.data.version} site={site} saved={appearance.data} />;
}

function MenuForm({ site, saved }: { site: string; saved: Appearance }) {
  const owner = useOwner(site);
  const offered = saved.offered ?? [];
  const [whole, setWhole] = useState(saved.whole);
  const [menu, setMenu] = useState(saved.menu.map(keyOf));
  // Everything that may be in the menu, in the order of the list: what is in it comes first.
  const [order, setOrder] = useState(() => [
    ...saved.menu.map(keyOf),
    ...offered.map(keyOf).filter((key) => !saved.menu.some((m) => keyOf(m) === key)),
  ]);
  const save = useSaveAppearance(site);
  const tell = useTell(site);
  const chosen = order.filter((key) => menu.includes(key));
  const changed = whole !== saved.whole || (!whole && chosen.join() !== saved.menu.map(keyOf).join());
  const items = order.flatMap((key) => offered.find((o) => keyOf(o) === key) ?? []);

  function choose(all: boolean) {
    setWhole(all);
    if (!all && menu.length === 0) setMenu(offered.filter((o) => o.seen).map(keyOf));
  }
  function store() {
    const next = items.filter((o) => menu.includes(keyOf(o))).map(({ kind, id }) => ({ kind, id }));
    save.mutate({ ...saved, whole, menu: next }, { onSuccess: () => tell("Menu saved.") });
  }
  return (
    <>
      <div className="mb-4 flex items-center gap-3">
        <Unsaved when={changed} what="the menu" />
        <h1 className="font-title text-2xl">Menu</h1>
        {owner && (
          <div className="ml-auto flex gap-2">
            {changed && (
              <Button
                onClick={() => {
                  setWhole(saved.whole);
                  setMenu(saved.menu.map(keyOf));
                }}
              >
                Discard changes
              </Button>
            )}
            <SaveButton name="Save menu" disabled={!changed || save.isPending} onSave={store} />
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
            <Items items={items} menu={menu} owner={owner} onOrder={setOrder} onMenu={setMenu} />
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
