import { Popover, PopoverButton, PopoverPanel } from "@headlessui/react";
import { CalendarDays } from "lucide-react";
import { lazy, Suspense } from "react";
import { TextField } from "./Field";
import { shownDate, siteToday } from "./siteClock";
import { isDate, readDate, type Toward } from "./typed";
import { useTyped } from "./useTyped";

const Month = lazy(() => import("./MonthPicker").then((m) => ({ default: m.MonthPicker })));

type Props = {
  label: string;
  hideLabel?: boolean;
  hint?: string;
  /** 2026-12-04, or empty. */
  value: string;
  /** Whether it may be left empty; what that means is its placeholder. */
  optional?: boolean;
  placeholder?: string;
  error?: string | undefined;
  /** Which way a date without a year looks. */
  toward?: Toward;
  /** Dates before it, or after it, cannot be picked. */
  least?: string | undefined;
  most?: string | undefined;
  onChange: (value: string) => void;
};

/**
 * A date of the site, typed as people type it or picked from a month. What cannot be read is handed on as typed: no
 * form takes it.
 */
export function DateField({
  label,
  value,
  optional = false,
  placeholder = "4 Dec",
  error,
  toward = "ahead",
  least,
  most,
  onChange,
  ...rest
}: Props) {
  const field = useTyped(value, onChange, {
    read: (text) => (text.trim() === "" ? (optional ? "" : undefined) : readDate(text, siteToday(), toward)),
    show: (date) => (isDate(date) ? shownDate(date) : date),
    unreadable: (text) => text,
  });
  const untouched = field.text === "" && !optional;
  return (
    <div className="relative min-w-0">
      <TextField
        {...rest}
        label={label}
        className="w-full min-w-36 pr-8!"
        placeholder={placeholder}
        autoComplete="off"
        value={field.text}
        error={untouched ? error : field.wrong("Enter a date, such as 4 Dec.", error)}
        onChange={(e) => field.type(e.target.value)}
        onBlur={field.leave}
        onKeyDown={field.key}
      />
      <Popover
        className={`absolute right-0.5 ${rest.hideLabel ? "top-0.5" : "top-[calc(1.25rem+0.375rem)]"}`}
      >
        <PopoverButton
          aria-label={`Pick a date: ${label}`}
          className="inline-flex size-7 items-center justify-center rounded-md text-soft hover:text-ink"
        >
          <CalendarDays size={15} aria-hidden />
        </PopoverButton>
        <PopoverPanel
          anchor="bottom end"
          focus
          className="z-50 rounded-md border border-strong bg-sheet p-2 shadow-lifted [--anchor-gap:4px]"
        >
          {({ close }) => (
            <Suspense fallback={<p className="h-64 w-60 p-4 text-sm text-soft">Loading…</p>}>
              <Month
                label={label}
                value={isDate(value) ? value : ""}
                least={least}
                most={most}
                onPick={(date) => {
                  onChange(date);
                  close();
                }}
              />
            </Suspense>
          )}
        </PopoverPanel>
      </Popover>
    </div>
  );
}
