import { TriangleAlert } from "lucide-react";
import { clock, dateParts, longDate } from "../../ui/civil";
import { kindWords } from "../forecast/kinds";
import type { Almanac, AlmanacDay } from "../plan/almanac";
import { share } from "../plan/layout";
import { DayGroundMark } from "../moving/RowGround";
import { Lacking } from "../tape/Mark";
import { DayMeter } from "../tape/Meters";
import { looks, markKey, marksOf, type Marked } from "../plan/marked";
import { layerOf, layers, type DeedMark } from "../plan/marks";
import { markId } from "../tape/ThinMarks";

type Props = {
  plan: Almanac;
  /** A day of the month that is shown. */
  month: string;
  chosen: number | undefined;
  picked: ReadonlySet<number>;
  lacks: ReadonlyMap<number, string>;
  marks: DeedMark[];
  onPost: (id: number) => void;
  onDay: (date: string) => void;
  onMark: (mark: string) => void;
};

/** How many lines a day has room for; the rest is said as a number. */
const room = 4;

/** A month of days, each with its own small tape and what stands on it. */
export function Month({ plan, month, marks, ...row }: Props) {
  const weekdays = plan.days.slice(0, 7).map((d) => dateParts(d.date).weekday);
  return (
    <div className="rounded-md border border-line bg-sheet">
      <div aria-hidden className="grid grid-cols-7 border-b border-line text-xs text-soft">
        {weekdays.map((d) => (
          <span key={d} className="px-2 py-1">
            {d}
          </span>
        ))}
      </div>
      <ol className="grid grid-cols-7">
        {plan.days.map((day) => (
          <Day
            key={day.date}
            day={day}
            outside={day.date.slice(0, 7) !== month.slice(0, 7)}
            today={day.date === plan.now.date}
            deeds={marks.filter((m) => m.date === day.date)}
            {...row}
          />
        ))}
      </ol>
    </div>
  );
}

type DayProps = Pick<Props, "chosen" | "picked" | "lacks" | "onPost" | "onDay" | "onMark"> & {
  day: AlmanacDay;
  outside: boolean;
  today: boolean;
  deeds: DeedMark[];
};

function Day({ day, outside, today, chosen, picked, lacks, deeds, onPost, onDay, onMark }: DayProps) {
  const posts = marksOf(day, lacks);
  const lines = posts.length + deeds.length;
  const shown = lines > room ? room - 1 : room;
  const date = dateParts(day.date);
  return (
    <li
      data-day={day.date}
      className={`relative flex min-h-28 in-data-[density=dense]:min-h-24 min-w-0 flex-col border-r border-b border-line p-1 nth-[7n]:border-r-0 ${outside ? "bg-ground" : ""}`}
    >
      <button
        type="button"
        onClick={() => onDay(day.date)}
        title={longDate(day.date)}
        className="flex items-center gap-1 rounded-sm px-1 text-left hover:bg-sunk"
      >
        <span
          className={`font-title text-base ${today ? "rounded-sm bg-tape px-1 text-tape-ink" : outside ? "text-faint" : ""}`}
        >
          {date.day}
        </span>
        {date.first && <span className="text-xs text-soft">{date.month}</span>}
        <span className="mx-1 w-8">
          <DayMeter meters={day.meters} />
        </span>
        {day.short.length > 0 && (
          <TriangleAlert size={12} className="text-madder" aria-label="with trouble" />
        )}
      </button>
      <DayGroundMark date={day.date} />
      {day.rest && (
        <span className="truncate px-1 text-xs text-again" title={day.rest}>
          {day.rest}
        </span>
      )}
      <SmallTape day={day} posts={posts} />
      <ul className="min-w-0 text-xs">
        {posts.slice(0, shown).map((m) => (
          <li key={markKey(m)}>
            <button
              type="button"
              data-post={m.id}
              onClick={() => onPost(m.id)}
              aria-pressed={m.id === chosen}
              title={`${clock(m.minute)} ${looks[m.kind].word}: ${m.title}`}
              className={`flex min-h-6 w-full items-center gap-1 rounded-sm px-0.5 text-left hover:bg-sunk ${looks[m.kind].text} ${m.id === chosen ? "ring-2 ring-ink" : ""} ${picked.has(m.id) ? "picked" : ""}`}
            >
              <span aria-hidden data-bar className={`my-1 shrink-0 self-stretch ${looks[m.kind].bar}`} />
              <span className="min-w-0 truncate print:whitespace-normal">
                <span className="font-semibold">{clock(m.minute)}</span>{" "}
                <span className="sr-only">
                  {looks[m.kind].word}
                  {picked.has(m.id) ? ", chosen" : ""}
                </span>{" "}
                {m.lacks && <Lacking what={m.lacks} />} <span className={looks[m.kind].title}>{m.title}</span>
              </span>
            </button>
          </li>
        ))}
        {deeds.slice(0, Math.max(0, shown - posts.length)).map((m) => (
          <li key={markId(m)}>
            <button
              type="button"
              onClick={() => onMark(markId(m))}
              className={`min-h-6 w-full truncate rounded-sm px-0.5 text-left hover:bg-sunk ${m.state === "failed" ? "text-madder" : layers[layerOf(m.kind)].color}`}
            >
              <span aria-hidden>{layers[layerOf(m.kind)].mark}</span>{" "}
              <span className="font-semibold">{clock(m.minute)}</span>{" "}
              <span className="sr-only">{kindWords[m.kind].word}</span>{" "}
              <span className="text-soft">{m.title || m.rule}</span>
            </button>
          </li>
        ))}
        {lines > shown && (
          <li>
            <button
              type="button"
              onClick={() => onDay(day.date)}
              className="min-h-6 px-0.5 text-soft underline underline-offset-2"
            >
              {lines - shown} more
            </button>
          </li>
        )}
      </ul>
    </li>
  );
}

/** The day as a tape a hand's breadth long: its openings, and where its posts sit. */
function SmallTape({ day, posts }: { day: AlmanacDay; posts: Marked[] }) {
  return (
    <span aria-hidden className="relative mx-1 mt-0.5 mb-1 block h-1.5 border-b border-line">
      {day.openings.map((o) => (
        <span
          key={`${o.opening}-${o.from}`}
          className="absolute inset-y-0 bg-open"
          style={{ left: share(o.from), width: share(o.to - o.from) }}
        />
      ))}
      {posts.map((m) => (
        <span
          key={markKey(m)}
          className={`absolute inset-y-0 ${looks[m.kind].bar} ${looks[m.kind].text}`}
          style={{ left: share(m.minute) }}
        />
      ))}
    </span>
  );
}
