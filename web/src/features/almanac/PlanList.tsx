import {
  flexRender,
  functionalUpdate,
  useTable,
  type Header,
  type RowSelectionState,
} from "@tanstack/react-table";
import { ArrowDown, ArrowUp, TriangleAlert } from "lucide-react";
import { useMemo } from "react";
import { clock } from "../../ui/civil";
import { shownDate } from "../../ui/siteClock";
import { Tick } from "../../ui/Tick";
import type { Almanac, AlmanacDay } from "../plan/almanac";
import { canMove, columns, features, keyOf, linesOf, type Line as ListLine, type ListRow } from "./lines";
import type { Sort } from "./sort";
import { DayGroundMark } from "../moving/RowGround";
import { Lacking } from "../tape/Mark";
import { looks } from "../plan/marked";
import { layerOf, layers, type DeedMark } from "../plan/marks";
import { markId } from "../tape/ThinMarks";

type Props = {
  plan: Almanac;
  chosen: number | undefined;
  picked: ReadonlySet<number>;
  /** Chooses posts for a change of many, or lets them go; absent where nothing may be changed. */
  onPick: ((posts: number[], on: boolean) => void) | undefined;
  lacks: ReadonlyMap<number, string>;
  marks: DeedMark[];
  sort: Sort;
  onSort: (sort: Sort) => void;
  onPost: (id: number) => void;
  onDay: (date: string) => void;
  onMark: (mark: string) => void;
};

/** The plan as a list: grouped by day where it is in the order of time, else one list in the order of a column. */
export function PlanList({ plan, marks, lacks, sort, onSort, onDay, ...row }: Props) {
  const lines = useMemo(() => linesOf(plan, marks, lacks), [plan, marks, lacks]);
  const { picked, onPick } = row;
  const selected = useMemo(
    (): RowSelectionState =>
      Object.fromEntries(lines.filter((l) => l.post && picked.has(l.post.id)).map((l) => [keyOf(l), true])),
    [lines, picked],
  );
  const sorting = [sort];
  const table = useTable({
    features,
    columns,
    data: lines,
    getRowId: keyOf,
    enableSortingRemoval: false,
    enableMultiSort: false,
    sortDescFirst: false,
    enableRowSelection: ({ original }) => Boolean(onPick) && canMove(original),
    state: { sorting, rowSelection: selected },
    onSortingChange: (change) => onSort(functionalUpdate(change, sorting)[0] ?? sort),
    onRowSelectionChange: (change) => {
      const next = functionalUpdate(change, selected);
      const ids = (on: boolean) =>
        lines.flatMap((l) => {
          const now = next[keyOf(l)] ?? false;
          return canMove(l) && now === on && now !== picked.has(l.post!.id) ? [l.post!.id] : [];
        });
      const [on, off] = [ids(true), ids(false)];
      if (on.length > 0) onPick?.(on, true);
      if (off.length > 0) onPick?.(off, false);
    },
  });
  const { rows } = table.getRowModel();
  const movable = rows.some((r) => r.getCanSelect());
  const all = table.getIsAllRowsSelected();
  const days = sort.desc ? plan.days.toReversed() : plan.days;
  const groups = sort.id === "time" ? Map.groupBy(rows, (r) => r.original.date) : undefined;
  return (
    <table className="w-full rounded-md border border-line bg-sheet text-sm">
      <thead className="text-xs text-soft">
        <tr className="border-b border-ink">
          <td className="w-9 py-1.5 pl-3">
            {movable && (
              <Tick
                label={all ? "Deselect all of these" : "Select all of these"}
                hideLabel
                on={all}
                onChange={(on) => table.toggleAllRowsSelected(on)}
              />
            )}
          </td>
          {table.getHeaderGroups()[0]?.headers.map((h) => (
            <Head key={h.id} header={h} />
          ))}
        </tr>
      </thead>
      {groups ? (
        days.map((day) => (
          <tbody key={day.date} data-day={day.date} className="relative border-b border-line last:border-b-0">
            <DayHead day={day} today={day.date === plan.now.date} onDay={onDay} />
            {groups.get(day.date)?.map((r) => (
              <Line key={r.id} row={r} dated={false} {...row} />
            ))}
          </tbody>
        ))
      ) : (
        <tbody>
          {rows.map((r) => (
            <Line key={r.id} row={r} dated {...row} />
          ))}
        </tbody>
      )}
    </table>
  );
}

function Head({ header }: { header: Header<typeof features, ListLine> }) {
  const { column } = header;
  const sorted = column.getIsSorted();
  return (
    <th
      scope="col"
      aria-sort={sorted ? (sorted === "desc" ? "descending" : "ascending") : "none"}
      className="py-1.5 pr-3 text-left font-normal"
    >
      <button
        type="button"
        onClick={() => column.toggleSorting()}
        className="flex items-center gap-1 hover:text-ink"
      >
        <span className={sorted ? "font-semibold text-ink" : ""}>
          {flexRender(column.columnDef.header, header.getContext())}
        </span>
        {sorted === "desc" && <ArrowDown size={12} aria-hidden />}
        {sorted === "asc" && <ArrowUp size={12} aria-hidden />}
      </button>
    </th>
  );
}

function DayHead({ day, today, onDay }: { day: AlmanacDay; today: boolean } & Pick<Props, "onDay">) {
  const empty = day.entries.length + day.ghosts.length === 0;
  return (
    <tr>
      <th scope="rowgroup" colSpan={columns.length + 1} className="px-3 pt-2 pb-0.5 text-left font-normal">
        <DayGroundMark date={day.date} />
        <span className="flex items-center gap-3">
          <button
            type="button"
            onClick={() => onDay(day.date)}
            className="rounded-sm font-title text-base hover:underline"
          >
            <span className={today ? "rounded-sm bg-tape px-1.5 text-tape-ink" : ""}>
              {shownDate(day.date)}
            </span>
          </button>
          {day.short.length > 0 && (
            <TriangleAlert size={14} className="text-madder" aria-label="with trouble" />
          )}
          {day.rest && (
            <span className="text-xs text-again">
              Rest day{day.rest === "Rest day" ? "" : `: ${day.rest}`}
            </span>
          )}
          {empty && !day.rest && (
            <span className="text-xs text-faint">
              {day.free.length > 0 ? "No post, and a free slot." : "No post."}
            </span>
          )}
        </span>
      </th>
    </tr>
  );
}

type LineProps = Pick<Props, "chosen" | "picked" | "onPost" | "onMark"> & {
  row: ListRow;
  /** Whether the day is said with the time. */
  dated: boolean;
};

function Line({ row, dated, chosen, picked, onPost, onMark }: LineProps) {
  const line = row.original;
  const { post, deed } = line;
  const on = post !== undefined && picked.has(post.id);
  const look = post ? looks[post.kind] : undefined;
  const layer = deed && layers[layerOf(deed.kind)];
  const color = look?.text ?? (deed?.state === "failed" ? "text-madder" : layer?.color) ?? "";
  return (
    <tr
      data-day={dated ? line.date : undefined}
      className={`h-8 in-data-[density=dense]:h-6.5 ${color} ${on ? "picked" : ""} ${post && post.id === chosen ? "bg-sunk" : ""} hover:bg-sunk`}
    >
      <td className="pl-3">
        {row.getCanSelect() && (
          <Tick
            label={`Choose “${line.title}”`}
            hideLabel
            on={on}
            onChange={(now) => row.toggleSelected(now)}
          />
        )}
      </td>
      <td className="w-24 pr-3 whitespace-nowrap">
        {dated && <span className="text-soft">{shownDate(line.date)}, </span>}
        <span className="font-semibold">{clock(line.minute)}</span>
      </td>
      <td className="max-w-0 pr-3" width="45%">
        <button
          type="button"
          data-post={post?.id}
          aria-pressed={post && post.id === chosen}
          onClick={() => (post ? onPost(post.id) : onMark(markId(deed!)))}
          className="flex w-full items-stretch gap-2 text-left"
        >
          {look ? (
            <span aria-hidden className={`my-0.5 shrink-0 ${look.bar}`} />
          ) : (
            <span aria-hidden className="text-xs">
              {layer?.mark}
            </span>
          )}
          <span dir="auto" className={`truncate ${look?.title ?? ""}`} title={line.title}>
            {line.title}
          </span>
          {post?.lacks && <Lacking what={post.lacks} />}
        </button>
      </td>
      <td className="pr-3 whitespace-nowrap">{line.standing}</td>
      <td className="max-w-40 truncate pr-3 text-soft">{line.author}</td>
      <td className="max-w-36 truncate pr-3 text-soft">{line.category}</td>
    </tr>
  );
}
