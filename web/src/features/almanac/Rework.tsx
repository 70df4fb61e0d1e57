import { Menu, MenuButton, MenuItem, MenuItems } from "@headlessui/react";
import { ChevronDown } from "lucide-react";
import { lazy, Suspense, useState } from "react";
import { useCommands } from "../../ui/commands";
import { kinds, type Wish, type WishKind } from "../plan/reflow";
import type { Almanac } from "../plan/almanac";
import { CloseUpSheet } from "./CloseUpSheet";

const ReflowSheet = lazy(() => import("../reflow/ReflowSheet").then((m) => ({ default: m.ReflowSheet })));

const order: { kind: WishKind | "close up"; keys: string }[] = [
  { kind: "place", keys: "w p" },
  { kind: "room", keys: "w m" },
  { kind: "close up", keys: "u" },
  { kind: "shift", keys: "w s" },
  { kind: "rest", keys: "w r" },
  { kind: "unplace", keys: "w b" },
];

function name(kind: WishKind | "close up"): string {
  return kind === "close up" ? "Close up…" : kinds[kind].menu;
}

/** Changes of many places at once, each proposed before it is done. */
export function Rework({ site, plan, from }: { site: string; plan: Almanac; from: string | undefined }) {
  const [open, setOpen] = useState<WishKind | "close up">();
  useCommands(
    order.map(({ kind, keys }) => ({ name: name(kind), group: "Almanac", keys, run: () => setOpen(kind) })),
  );
  const choices = [...plan.shelf, ...plan.drafts.filter((d) => d.title)].map(({ id, title }) => ({
    id,
    title,
  }));
  const begins: Record<WishKind, Wish> = {
    place: { do: "place", posts: plan.shelf.map((s) => s.id) },
    room: { do: "room", posts: choices.slice(0, 1).map((c) => c.id) },
    shift: { do: "shift", days: 7, ...(from ? { start: from } : {}) },
    rest: { do: "rest" },
    unplace: { do: "unplace", ...(from ? { start: from } : {}) },
  };
  return (
    <>
      <Menu as="div" className="relative">
        <MenuButton className="inline-flex h-8 items-center gap-1 rounded-md px-2 text-sm text-soft data-hover:bg-sunk data-hover:text-ink">
          Rearrange <ChevronDown size={14} aria-hidden />
        </MenuButton>
        <MenuItems
          modal={false}
          className="absolute top-full right-0 z-30 mt-1 min-w-60 rounded-md border border-strong bg-sheet py-1 shadow-lifted"
        >
          {order.map(({ kind }) => (
            <MenuItem key={kind}>
              <button
                type="button"
                onClick={() => setOpen(kind)}
                className="flex h-8 w-full items-center px-3 text-left data-focus:bg-sunk"
              >
                {name(kind)}
              </button>
            </MenuItem>
          ))}
        </MenuItems>
      </Menu>
      <CloseUpSheet site={site} open={open === "close up"} onClose={() => setOpen(undefined)} />
      <Suspense fallback={null}>
        {open && open !== "close up" && (
          <ReflowSheet
            key={open}
            site={site}
            start={begins[open]}
            choices={choices}
            onClose={() => setOpen(undefined)}
          />
        )}
      </Suspense>
    </>
  );
}
