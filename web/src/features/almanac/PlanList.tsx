import { ArrowDown, ArrowUp, TriangleAlert } from "lucide-react";
import { useMemo } from "react";
import { clock } from "../../ui/civil";
import { shownDate } from "../../ui/siteClock";
import { Tick } from "../../ui/Tick";
import type { Almanac, AlmanacDay } from "../plan/almanac";
import { columns, linesOf, sorted, type Line, type Sort } from "./lines";
import { DayGroundMark } from "../moving/RowGround";
import { Lacking } from "../tape/Mark";
import { looks, markKey } from "../plan/marked";
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
  const movable = lines.flatMap((l) => (canMove(l) ? [l.post!.id] : []));
  const all = movable.length > 0 && movable.every((id) => picked.has(id));
  const byDay = sort.by === "time";
  const days = sort.down ? plan.days.toReversed() : plan.days;
  const groups = byDay ? Map.groupBy(sorted(lines, sort), (l) => l.date) : undefined;
  return (
    <table className="w-full rounded-md border border-line bg-sheet text-sm">
      <thead className="text-xs text-soft">
        <tr className="border-b border-ink">
          <td className="w-9 py-1.5 pl-3">
            {onPick && movable.length > 0 && (
              <Tick
                label={all ? "Choose none of these" : "Choose all of these"}
                hideLabel
                on={all}
                onChange={(on) => onPick(movable, on)}
              />
            )}
          </td>
          {columns.map((c) => (
            <Head key={c.by} column={c} sort={sort} onSort={onSort} />
          ))}
        </tr>
      </thead>
      {groups ? (
        days.map((day) => (
          <tbody key={day.date} data-day={day.date} className="relative border-b border-line last:border-b-0">
            <DayHead day={day} today={day.date === plan.now.date} onDay={onDay} />
            {groups.get(day.date)?.map((l) => (
              <Row key={keyOf(l)} line={l} dated={false} {...row} />
            ))}
          </tbody>
        ))
      ) : (
        <tbody>
          {sorted(lines, sort).map((l) => (
            <Row key={keyOf(l)} line={l} dated {...row} />
          ))}
        </tbody>
      )}
    </table>
  );
}

/** What has a time that can be changed, or waits for one. */
const canMove = (l: Line) => l.post !== undefined && l.post.kind !== "out";

const keyOf = (l: Line) => (l.deed ? markId(l.deed) : markKey(l.post!));

function Head({
  column,
  sort,
  onSort,
}: { column: (typeof columns)[number] } & Pick<Props, "sort" | "onSort">) {
  const on = sort.by === column.by;
  return (
    <th
      scope="col"
      aria-sort={on ? (sort.down ? "descending" : "ascending") : "none"}
      className="py-1.5 pr-3 text-left font-normal"
    >
      <button
        type="button"
        onClick={() => onSort({ by: column.by, down: on && !sort.down })}
        className="flex items-center gap-1 hover:text-ink"
      >
        <span className={on ? "font-semibold text-ink" : ""}>{column.name}</span>
        {on && (sort.down ? <ArrowDown size={12} aria-hidden /> : <ArrowUp size={12} aria-hidden />)}
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

type RowProps = Pick<Props, "chosen" | "picked" | "onPick" | "onPost" | "onMark"> & {
  line: Line;
  /** Whether the day is said with the time. */
  dated: boolean;
};

function Row({ line, dated, chosen, picked, onPick, onPost, onMark }: RowProps) {
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
        {onPick && canMove(line) && (
          <Tick
            label={`Choose “${line.title}”`}
            hideLabel
            on={on}
            onChange={(now) => onPick([post!.id], now)}
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
