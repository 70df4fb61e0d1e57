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

/** A time of day as 09:40; past midnight it goes on to 48:00. While it cannot be read, the last one stands. */
export function TimeField({ value, error, onChange, ...rest }: Props) {
  const [text, setText] = useFollowing(value);
  const readable = form.test(text);
  return (
    <TextField
      {...rest}

      inputMode="numeric"
      className="w-16! text-center"
      value={text}
      error={readable ? error : "Write it as 09:40."}
      onChange={(e) => {
        setText(e.target.value);
        if (form.test(e.target.value)) onChange(e.target.value);
      }}
    />
  );
}
