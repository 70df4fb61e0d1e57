import { useRoving } from "./useRoving";

export const weekdays = [
  "monday",
  "tuesday",
  "wednesday",
  "thursday",
  "friday",
  "saturday",
  "sunday",
] as const;

export type Weekday = (typeof weekdays)[number];

type Props = {
  chosen: readonly string[];
  error?: string | undefined;
  onChange: (days: Weekday[]) => void;
};

function name(day: Weekday): string {
  return day.charAt(0).toUpperCase() + day.slice(1);
}

/** The days of a week, each on or off; one stop of the Tab key, arrows go along them. */
export function WeekdayButtons({ chosen, error, onChange }: Props) {
  const roving = useRoving(weekdays.findIndex((d) => chosen.includes(d)));
  return (
    <div>
      <div
        {...roving.group}
        role="toolbar"
        aria-label="Weekdays"
        className="flex w-fit rounded-md border border-strong"
      >
        {weekdays.map((day, i) => {
          const on = chosen.includes(day);
          return (
            <button
              key={day}
              type="button"
              tabIndex={roving.tabIndex(i)}
              aria-pressed={on}
              title={name(day)}
              onClick={() => onChange(weekdays.filter((d) => (d === day ? !on : chosen.includes(d))))}
              className={`h-7.5 w-9 border-r border-line text-sm first:rounded-l-[5px] last:rounded-r-[5px] last:border-r-0 focus-visible:z-10 ${on ? "bg-ink text-ground" : "text-soft hover:bg-sunk"}`}
            >
              {name(day).slice(0, 3)}
            </button>
          );
        })}
      </div>
      {error && (
        <p role="alert" className="mt-1 text-xs text-madder">
          {error}
        </p>
      )}
    </div>
  );
}
