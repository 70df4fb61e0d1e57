import { parseDate } from "@internationalized/date";
import { ChevronLeft, ChevronRight } from "lucide-react";
import {
  Button,
  Calendar,
  CalendarCell,
  CalendarGrid,
  CalendarGridBody,
  CalendarGridHeader,
  CalendarHeaderCell,
  Heading,
  I18nProvider,
} from "react-aria-components";
import { siteToday, siteWeekStart } from "./siteClock";

type Props = {
  label: string;
  value: string;
  least?: string | undefined;
  most?: string | undefined;
  onPick: (date: string) => void;
};

const shortDay = { monday: "mon", sunday: "sun", saturday: "sat" } as const;

const turn =
  "inline-flex size-8 items-center justify-center rounded-md text-soft hover:bg-sunk hover:text-ink";

/** A month of dates to pick from, by pointer and by keys; its days and its week are the site's. */
export function MonthPicker({ label, value, least, most, onPick }: Props) {
  return (
    <I18nProvider locale="en-GB">
      <Calendar
        aria-label={label}
        autoFocus
        defaultFocusedValue={parseDate(value || least || siteToday())}
        value={value ? parseDate(value) : null}
        minValue={least ? parseDate(least) : undefined}
        maxValue={most ? parseDate(most) : undefined}
        firstDayOfWeek={shortDay[siteWeekStart()]}
        onChange={(date) => onPick(date.toString())}
      >
        <header className="mb-1 flex items-center justify-between">
          <Button slot="previous" className={turn}>
            <ChevronLeft size={16} aria-hidden />
          </Button>
          <Heading className="font-title text-lg" />
          <Button slot="next" className={turn}>
            <ChevronRight size={16} aria-hidden />
          </Button>
        </header>
        <CalendarGrid weekdayStyle="short" className="text-center text-sm">
          <CalendarGridHeader>
            {(day) => (
              <CalendarHeaderCell className="size-9 text-xs font-normal text-soft">{day}</CalendarHeaderCell>
            )}
          </CalendarGridHeader>
          <CalendarGridBody>
            {(date) => (
              <CalendarCell
                date={date}
                className={({ isSelected, isDisabled, isOutsideMonth }) =>
                  `flex size-9 cursor-default items-center justify-center rounded-md ${
                    isOutsideMonth
                      ? "invisible"
                      : isDisabled
                        ? "text-faint line-through"
                        : isSelected
                          ? "bg-ink text-ground"
                          : "hover:bg-sunk"
                  } ${date.toString() === siteToday() ? "font-semibold underline decoration-2 underline-offset-4" : ""}`
                }
              />
            )}
          </CalendarGridBody>
        </CalendarGrid>
      </Calendar>
    </I18nProvider>
  );
}
