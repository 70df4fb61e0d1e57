import { TextField } from "./Field";
import { useFollowing } from "./useFollowing";

type Props = {
  label: string;
  hideLabel?: boolean;
  value: string;
  error?: string | undefined;
  onChange: (value: string) => void;
};

const form = /^([0-3]\d|4[0-8]):[0-5]\d$/;
const byHalves = /^(1[0-2]|0?[1-9])(?::([0-5]\d))?\s*([ap])\.?m\.?$/i;

/** What was written as 09:40; undefined where it cannot be read. "9:40 pm" is read too. */
function read(text: string): string | undefined {
  if (form.test(text)) return text;
  const [, hour, minute = "00", half] = byHalves.exec(text.trim()) ?? [];
  if (!hour || !half) return undefined;
  return `${String((Number(hour) % 12) + (half.toLowerCase() === "p" ? 12 : 0)).padStart(2, "0")}:${minute}`;
}

/** A time of day as 09:40; past midnight it goes on to 48:00. While it cannot be read, the last one stands. */
export function TimeField({ value, error, onChange, ...rest }: Props) {
  const [text, setText] = useFollowing(value);
  const readable = read(text) !== undefined;
  return (
    <TextField
      {...rest}

      inputMode="numeric"
      className="w-16! text-center"
      value={text}
      error={readable ? error : "Write it as 09:40 or 9:40 pm."}
      onChange={(e) => {
        setText(e.target.value);
        const time = read(e.target.value);
        if (time !== undefined) onChange(time);
      }}
    />
  );
}
