import {
  closestCenter,
  DndContext,
  KeyboardSensor,
  PointerSensor,
  useSensor,
  useSensors,
  type Announcements,
  type DragEndEvent,
} from "@dnd-kit/core";
import {
  arrayMove,
  SortableContext,
  sortableKeyboardCoordinates,
  useSortable,
  verticalListSortingStrategy,
} from "@dnd-kit/sortable";
import { CSS } from "@dnd-kit/utilities";
import { GripVertical } from "lucide-react";
import type { ReactNode } from "react";
import { useSay } from "../../ui/toast";
import { useRuleDeeds, type Kind, type Rule } from "./rules";

type Props = {
  site: string;
  kind: Kind;
  rules: Rule[];
  children: (rule: Rule, handle: ReactNode) => ReactNode;
};

/** Rules in the order in which they take their turns, which is changed by dragging or by keys. */
export function SortableRules({ site, kind, rules, children }: Props) {
  const deeds = useRuleDeeds(site);
  const say = useSay();
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const ids = rules.map((r) => r.id);
  const name = (id: string | number) => rules.find((r) => r.id === id)?.name ?? "";
  const end = ({ active, over }: DragEndEvent) => {
    if (!over || active.id === over.id) return;
    const next = arrayMove(ids, ids.indexOf(Number(active.id)), ids.indexOf(Number(over.id)));
    deeds.order.mutate({ kind, ids: next }, { onError: say.trouble });
  };
  const place = (id: string | number) => `place ${ids.indexOf(Number(id)) + 1} of ${ids.length}`;
  const announcements: Announcements = {
    onDragStart: ({ active }) => `“${name(active.id)}” is lifted. Arrow keys move it, Escape cancels.`,
    onDragOver: ({ active, over }) => (over ? `“${name(active.id)}” is at ${place(over.id)}.` : undefined),
    onDragEnd: ({ active, over }) =>
      over ? `“${name(active.id)}” was put at ${place(over.id)}.` : undefined,
    onDragCancel: ({ active }) => `“${name(active.id)}” is back where it was.`,
  };
  return (
    <DndContext
      sensors={sensors}
      collisionDetection={closestCenter}
      onDragEnd={end}
      accessibility={{ announcements }}
    >
      <SortableContext items={ids} strategy={verticalListSortingStrategy}>
        <ul className="divide-y divide-line rounded-md border border-line bg-sheet">
          {rules.map((r) => (
            <Row key={r.id} rule={r} alone={rules.length < 2}>
              {(handle) => children(r, handle)}
            </Row>
          ))}
        </ul>
      </SortableContext>
    </DndContext>
  );
}

function Row({
  rule,
  alone,
  children,
}: {
  rule: Rule;
  alone: boolean;
  children: (handle: ReactNode) => ReactNode;
}) {
  const { setNodeRef, setActivatorNodeRef, attributes, listeners, transform, transition, isDragging } =
    useSortable({ id: rule.id, attributes: { roleDescription: "rule that can be moved" } });
  const handle = alone ? null : (
    <button
      ref={setActivatorNodeRef}
      type="button"
      {...attributes}
      {...listeners}
      aria-label={`Move “${rule.name}”`}
      className="flex size-6 cursor-grab touch-none items-center justify-center rounded-sm text-faint hover:bg-sunk hover:text-ink"
    >
      <GripVertical size={14} aria-hidden />
    </button>
  );
  return (
    <li
      ref={setNodeRef}
      style={{ transform: CSS.Translate.toString(transform), transition }}
      className={isDragging ? "relative z-20 bg-sheet shadow-lifted" : ""}
    >
      {children(handle)}
    </li>
  );
}
