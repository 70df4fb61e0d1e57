import type { ReactNode } from "react";
import type { Almanac } from "./almanac";
import { rowMinutes, share } from "./layout";
import type { DeedMark } from "./marks";
import { NowLine, NowTab } from "./NowLine";
import { ThinMarks } from "./ThinMarks";
import { TapeRow } from "./TapeRow";

type Props = {
  plan: Almanac & { now: { received: number } };
  chosen: number | undefined;
  onPost: (id: number) => void;
  onDay: (date: string) => void;
  marks: DeedMark[];
  chosenMark: string | undefined;
  onMark: (mark: string) => void;
};

/** Width of the column of dates, before the tape. */
export const dateColumn = "w-24";

/** The days as rows, their hours as a measuring tape. */
export function Tape({ plan, chosen, onPost, onDay, marks, chosenMark, onMark }: Props) {
  const today = plan.days.some((d) => d.date === plan.now.date);
  return (
    <div className="rounded-md border border-line bg-sheet">
      <TapeHead>{today && <NowTab now={plan.now} />}</TapeHead>
      <ol className="relative">
        {plan.days.map((day) => (
          <TapeRow
            key={day.date}
            day={day}
            isToday={day.date === plan.now.date}
            chosen={chosen}
            onPost={onPost}
            onDay={onDay}
            below={
              marks.some((m) => m.date === day.date) && (
                <ThinMarks
                  marks={marks.filter((m) => m.date === day.date)}
                  chosen={chosenMark}
                  onChoose={onMark}
                />
              )
            }
          >
            {day.date === plan.now.date && <NowLine now={plan.now} />}
          </TapeRow>
        ))}
      </ol>
    </div>
  );
}

/** The head of a tape: the ruler over the rows, with what stands on it. */
export function TapeHead({ children }: { children?: ReactNode }) {
  return (
    <div className="flex">
      <div className={`${dateColumn} shrink-0`} />
      <div className="relative min-w-0 flex-1">
        <Ruler />
        {children}
      </div>
    </div>
  );
}

/** The scale above the rows: a numeral every third hour, a tick every half. */
function Ruler() {
  const halves = Array.from({ length: 49 }, (_, i) => i);
  return (
    <div aria-hidden className="relative mr-2 h-8 border-b border-ink text-xs text-soft">
      {halves.map((half) => {
        const hour = half / 2;
        const height = half % 6 === 0 ? "h-2.5" : half % 2 === 0 ? "h-1.5" : "h-1";
        return (
          <span key={half} className="absolute bottom-0" style={{ left: share((half * rowMinutes) / 48) }}>
            <span className={`absolute bottom-0 w-px bg-ink ${height}`} />
            {half % 6 === 0 && (
              <span
                className={`absolute bottom-3 ${half === 0 ? "" : half === 48 ? "right-0" : "-translate-x-1/2"}`}
              >
                {String(hour).padStart(2, "0")}
              </span>
            )}
          </span>
        );
      })}
    </div>
  );
}
