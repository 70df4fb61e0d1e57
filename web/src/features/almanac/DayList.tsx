import { TriangleAlert } from "lucide-react";
import { clock } from "../../ui/civil";
import { kindWords } from "../forecast/kinds";
import type { Almanac } from "../plan/almanac";
import { DayGroundMark } from "../moving/RowGround";
import { Lacking } from "../tape/Mark";
import { looks, markKey, marksOf } from "../plan/marked";
import { layerOf, layers, type DeedMark } from "../plan/marks";
import { markId } from "../tape/ThinMarks";
import { shownDate } from "../../ui/siteClock";

type Props = {
  plan: Almanac;
  picked: ReadonlySet<number>;
  lacks: ReadonlyMap<number, string>;
  marks: DeedMark[];
  onPost: (id: number) => void;
  onDay: (date: string) => void;
  onMark: (mark: string) => void;
};

/** The plan as a list of days: for narrow windows, where a tape of hours has no room. */
export function DayList({ plan, picked, lacks, marks, onPost, onDay, onMark }: Props) {
  return (
    <ol className="divide-y divide-line rounded-md border border-line bg-sheet">
      {plan.days.map((day) => {
        const posts = marksOf(day, lacks);
        const deeds = marks.filter((m) => m.date === day.date);
        const today = day.date === plan.now.date;
        return (
          <li key={day.date} data-day={day.date} className="relative px-3 py-2">
            <DayGroundMark date={day.date} />
            <button
              type="button"
              onClick={() => onDay(day.date)}
              className="flex w-full items-center gap-2 text-left font-title text-lg"
            >
              <span className={today ? "rounded-sm bg-tape px-1.5 text-tape-ink" : ""}>
                {shownDate(day.date)}
              </span>
              {day.short.length > 0 && (
                <TriangleAlert size={14} className="text-madder" aria-label="with trouble" />
              )}
            </button>
            {day.rest && (
              <p className="text-xs text-again">Rest day{day.rest === "Rest day" ? "" : `: ${day.rest}`}</p>
            )}
            {posts.length === 0 && !day.rest && (
              <p className="text-xs text-faint">
                {day.free.length > 0 ? "No post, and a free slot." : "No post."}
              </p>
            )}
            <ul>
              {posts.map((m) => {
                const look = looks[m.kind];
                return (
                  <li key={markKey(m)}>
                    <button
                      type="button"
                      data-post={m.id}
                      onClick={() => onPost(m.id)}
                      className={`flex min-h-10 w-full items-stretch gap-2 py-1 text-left ${look.text} ${picked.has(m.id) ? "picked" : ""}`}
                    >
                      <span aria-hidden className={`shrink-0 ${look.bar}`} />
                      <span className="min-w-0">
                        <span className="text-xs">
                          <span className="font-semibold">{clock(m.minute)}</span> {look.word}
                          {picked.has(m.id) && <span className="sr-only">, chosen</span>}
                          {m.lacks && <Lacking what={m.lacks} />}
                        </span>{" "}
                        <span className={`block text-sm ${look.title}`}>{m.title}</span>
                      </span>
                    </button>
                  </li>
                );
              })}
              {deeds.map((m) => {
                const layer = layers[layerOf(m.kind)];
                return (
                  <li key={markId(m)}>
                    <button
                      type="button"
                      onClick={() => onMark(markId(m))}
                      className={`min-h-8 w-full truncate text-left text-xs ${m.state === "failed" ? "text-madder" : layer.color}`}
                    >
                      <span aria-hidden>{layer.mark}</span>{" "}
                      <span className="font-semibold">{clock(m.minute)}</span> {kindWords[m.kind].word}{" "}
                      <span className="text-soft">{m.title || m.rule}</span>
                    </button>
                  </li>
                );
              })}
            </ul>
          </li>
        );
      })}
    </ol>
  );
}
