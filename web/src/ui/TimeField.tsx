import { clock, minutesOf } from "./civil";
import { TextField } from "./Field";
import { isTime, readTime } from "./typed";
import { useTyped } from "./useTyped";

type Props = {
  label: string;
  hideLabel?: boolean;
  value: string;
  error?: string | undefined;
  /** The latest time, in minutes; past 24 hours for windows that run past midnight. */
  most?: number;
  onChange: (value: string) => void;
};

const endOfDay = 24 * 60;

/** A time of day, typed as people type it. What cannot be read is handed on as typed: no form takes it. */
export function TimeField({ value, error, most = endOfDay, onChange, ...rest }: Props) {
  const field = useTyped(value, onChange, {
    read: (text) => readTime(text, most),
    show: (time) => (isTime(time) && minutesOf(time) < endOfDay ? clock(minutesOf(time)) : time),
    unreadable: (text) => text,
  });
  return (
    <TextField
      {...rest}
      className="w-19! text-center"
      value={field.text}
      error={field.wrong("Enter a time, such as 9:40.", error)}
      onChange={(e) => field.type(e.target.value)}
      onBlur={field.leave}
      onKeyDown={field.key}
    />
  );
}
