import { useEffect, useLayoutEffect, useMemo, useRef, type ReactNode, type RefObject } from "react";
import { useCommands } from "../../ui/commands";
import { useSay } from "../../ui/toast";
import { useOrderShelf, type Almanac } from "../plan/almanac";
import { useTell } from "../logbook/useTell";
import { movable, type Held } from "./held";
import { movedWords, useMove } from "./moves";
import { stillWritten, useHand, type Aim } from "./useHand";

type Props = {
  site: string;
  plan: Almanac;
  enabled: boolean;
  picked: ReadonlySet<number>;
  onPick: (change: (picked: ReadonlySet<number>) => ReadonlySet<number>) => void;
  /** What can be done with those that were chosen; shown while there are some. */
  chosenBar: (posts: Held[], onClear: () => void) => ReactNode;
  children: ReactNode;
};

/** Where the parts that follow the hand are while there is nothing to follow. */
const outOfSight = { transform: "translate(-200vw, 0)" };

/** What lies in it can be moved: by dragging, by keys, one by one or several that were chosen. */
export function Moving({ site, plan, enabled, picked, onPick, chosenBar, children }: Props) {
  const root = useRef<HTMLDivElement>(null);
  const move = useMove(site);
  const order = useOrderShelf(site);
  const say = useSay();
  const tell = useTell(site);
  const posts = useMemo(() => movable(plan), [plan]);
  useFollowed(root, plan);

  function drop(held: Held[], aim: Aim) {
    if (aim.on === "shelf" && held.every((p) => p.draft)) {
      if (held.some((p) => p.shelf === undefined)) return say.trouble(new Error(`${stillWritten}.`));
      if (aim.before !== undefined && plan.order === "hand") reorder(held, aim.before);
      else if (plan.order !== "hand")
        say.trouble(new Error("The shelf is not ordered by hand. Change its order in the settings."));
      return;
    }
    if (aim.on === "day" && nowhere(held, aim)) return;
    const target =
      aim.on === "day" ? { date: aim.date, ...(aim.minute === undefined ? {} : { minute: aim.minute }) } : {};
    // Taking back to the shelf is only for those that have a time.
    const moving = aim.on === "shelf" ? held.filter((p) => !p.draft) : held;
    move
      .mutateAsync({ posts: moving, ...target })
      .then(({ moved }) => tell(movedWords(moved)))
      .catch(say.trouble);
  }

  function reorder(held: Held[], before: number) {
    const moving = new Set(held.map((p) => p.id));
    const ids = plan.shelf.map((s) => s.id);
    const rest = (part: number[]) => part.filter((id) => !moving.has(id));
    const next = [
      ...rest(ids.slice(0, before)),
      ...ids.filter((id) => moving.has(id)),
      ...rest(ids.slice(before)),
    ];
    if (next.every((id, i) => id === ids[i])) return;
    order.mutateAsync(next).then(() => tell("Shelf reordered."), say.trouble);
  }

  const toggle = (id: number) => onPick((now) => now.symmetricDifference(new Set([id])));
  const none = () => onPick(() => new Set());
  useHand(root, {
    site,
    enabled,
    posts,
    picked,
    from: plan.days[0]?.date ?? plan.now.date,
    days: Math.max(plan.days.length, 1),
    onPick: toggle,
    onDrop: drop,
  });
  useCommands(picked.size > 0 ? [{ name: "Clear selection", group: "Almanac", run: none }] : []);
  const chosen = [...picked].flatMap((id) => posts.get(id) ?? []);
  return (
    <div ref={root} className="flex min-h-0 min-w-0 flex-1 gap-4 max-md:flex-col">
      {children}
      {enabled && chosen.length > 0 && chosenBar(chosen, none)}
      <div
        data-hand="box"
        style={outOfSight}
        aria-hidden
        className="pointer-events-none fixed top-0 left-0 z-40 contain-strict rounded-sm border-2 border-dashed border-ink will-change-transform"
      />
      <div
        data-hand="line"
        style={outOfSight}
        aria-hidden
        className="pointer-events-none fixed top-0 left-0 z-40 contain-strict bg-chalk will-change-transform"
      />
      <div
        data-hand="label"
        style={outOfSight}
        aria-hidden
        className="pointer-events-none fixed top-0 left-0 z-50 h-11 w-72 contain-strict will-change-transform rounded-sm bg-ink px-2 py-1 text-sm text-ground shadow-lifted data-[bad=yes]:bg-madder-wash data-[bad=yes]:text-madder data-[bad=yes]:ring-1 data-[bad=yes]:ring-madder"
      >
        <div className="truncate font-semibold" />
        <div className="truncate text-xs" />
      </div>
      <div data-hand="said" aria-live="assertive" className="sr-only" />
    </div>
  );
}

/** Keeps the focus on its post, whoever moves it: in another row, or on the shelf, its mark is another one. */
function useFollowed(root: RefObject<HTMLElement | null>, plan: Almanac) {
  const followed = useRef<number>(undefined);
  useEffect(() => {
    const within = root.current;
    const come = (e: FocusEvent) => {
      const id = Number((e.target as Element).closest<HTMLElement>("[data-post]")?.dataset.post);
      followed.current = id || undefined;
    };
    const go = ({ target, relatedTarget }: FocusEvent) => {
      // Where it goes to something else in here, come is told next.
      if (relatedTarget) followed.current = undefined;
      // Left for nothing, it is given up; a mark that leaves the page keeps its claim to it.
      else
        queueMicrotask(() => {
          if ((target as Element).isConnected && document.activeElement === document.body)
            followed.current = undefined;
        });
    };
    within?.addEventListener("focusin", come);
    within?.addEventListener("focusout", go);
    return () => {
      within?.removeEventListener("focusin", come);
      within?.removeEventListener("focusout", go);
    };
  }, [root]);
  useLayoutEffect(() => {
    // Only what went with its mark is brought back; a focus that has moved on stays where it is.
    if (followed.current === undefined || document.activeElement !== document.body) return;
    root.current
      ?.querySelector<HTMLElement>(`[data-post="${followed.current}"]`)
      ?.focus({ preventScroll: true });
  }, [root, plan]);
}

/** Whether a drop leaves a post that has a time exactly where it is. */
function nowhere(held: Held[], aim: Aim & { on: "day" }): boolean {
  const first = held[0];
  return (
    first !== undefined &&
    !first.draft &&
    first.date === aim.date &&
    (aim.minute === undefined || aim.minute === first.minute)
  );
}
