import { useLayoutEffect, useMemo, useRef, type ReactNode } from "react";
import { useSteady } from "../../ui/useSteady";
import { hourMark } from "../../ui/civil";
import type { Almanac } from "../plan/almanac";
import { Audience } from "./Audience";
import { legible, rowMinutes, share } from "../plan/layout";
import type { DeedMark } from "../plan/marks";
import { NowTab } from "./NowLine";
import { TapeRow } from "./TapeRow";

type Props = {
  plan: Almanac & { now: { received: number } };
  chosen: number | undefined;
  picked: ReadonlySet<number>;
  lacks: ReadonlyMap<number, string>;
  /** Pixels an hour; 0 fits the day to the window. */
  zoom: number;
  onPost: (id: number) => void;
  onDay: (date: string) => void;
  marks: DeedMark[];
  chosenMark: string | undefined;
  onMark: (mark: string) => void;
};

/** Width of the column of dates, before the tape. */
export const dateColumn = "w-24";

/** About how wide an hour is where the day fits the window, in pixels. */
const fitted = 34;

/** The days as rows, their hours as a measuring tape. */
export function Tape({ plan, zoom, marks, chosen, chosenMark, onPost, onDay, onMark, ...row }: Props) {
  // Rows are drawn anew only where something changed, so what they are given stays the same.
  const deeds = useMemo(() => Map.groupBy(marks, (m) => m.date), [marks]);
  const post = useSteady(onPost);
  const dayOf = useSteady(onDay);
  const mark = useSteady(onMark);
  const scroller = useScrolled(zoom, plan.now.minute);
  const today = plan.days.some((d) => d.date === plan.now.date);
  const least = zoom ? Math.round((legible * fitted) / zoom) : legible;
  return (
    <div
      ref={scroller}
      className={`rounded-md border border-line bg-sheet ${zoom ? "overflow-x-auto" : ""}`}
      // What scrolls can be reached by keys.
      tabIndex={zoom ? 0 : undefined}
      role={zoom ? "region" : undefined}
      aria-label={zoom ? "The hours of the tape" : undefined}
    >
      <div style={zoom ? { width: `calc(6rem + ${24 * zoom}px)` } : undefined}>
        <TapeHead everyHour={zoom > 0}>{today && <NowTab now={plan.now} />}</TapeHead>
        <ol className="relative">
          {plan.days.map((day) => (
            <TapeRow
              key={day.date}
              day={day}
              now={day.date === plan.now.date ? plan.now : undefined}
              deeds={deeds.get(day.date) ?? noDeeds}
              legible={least}
              zoomed={zoom > 0}
              chosen={holds(day, chosen) ? chosen : undefined}
              chosenMark={chosenMark}
              {...row}
              onPost={post}
              onDay={dayOf}
              onMark={mark}
            />
          ))}
        </ol>
        <Audience zone={plan.zone} audience={plan.audience} days={plan.days} column={dateColumn} />
      </div>
    </div>
  );
}

const noDeeds: DeedMark[] = [];

const holds = (day: Almanac["days"][number], post: number | undefined) =>
  post !== undefined && (day.entries.some((e) => e.id === post) || day.ghosts.some((g) => g.id === post));

/** Keeps the hour in the middle of the tape where it is when the zoom changes; at first it is the present one. */
function useScrolled(zoom: number, minute: number) {
  const scroller = useRef<HTMLDivElement>(null);
  const middle = useRef(minute / rowMinutes);
  useLayoutEffect(() => {
    const el = scroller.current;
    if (!el || !zoom) return;
    const column = el.querySelector("[data-column]")?.getBoundingClientRect().width ?? 0;
    const width = () => el.scrollWidth - column;
    el.scrollLeft = middle.current * width() - (el.clientWidth - column) / 2;
    const keep = () => (middle.current = (el.scrollLeft + (el.clientWidth - column) / 2) / width());
    el.addEventListener("scroll", keep, { passive: true });
    return () => el.removeEventListener("scroll", keep);
  }, [zoom]);
  return scroller;
}

/** The head of a tape: the ruler over the rows, with what stands on it. */
export function TapeHead({ everyHour = false, children }: { everyHour?: boolean; children?: ReactNode }) {
  return (
    <div className="flex">
      <div data-column className={`${dateColumn} shrink-0`} />
      <div className="relative min-w-0 flex-1">
        <Ruler every={everyHour ? 2 : 6} />
        {children}
      </div>
    </div>
  );
}

/** The scale above the rows: a tick every half hour, a numeral every so many of them. */
function Ruler({ every }: { every: number }) {
  const halves = Array.from({ length: 49 }, (_, i) => i);
  return (
    <div aria-hidden className="relative mr-2 h-8 border-b border-ink text-xs text-soft">
      {halves.map((half) => {
        const height = half % 6 === 0 ? "h-2.5" : half % 2 === 0 ? "h-1.5" : "h-1";
        return (
          <span key={half} className="absolute bottom-0" style={{ left: share((half * rowMinutes) / 48) }}>
            <span className={`absolute bottom-0 w-px bg-ink ${height}`} />
            {half % every === 0 && (
              <span
                className={`absolute bottom-3 whitespace-nowrap ${half === 0 ? "" : half === 48 ? "right-0" : "-translate-x-1/2"}`}
              >
                {hourMark(half / 2)}
              </span>
            )}
          </span>
        );
      })}
    </div>
  );
}
