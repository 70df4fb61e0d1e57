import { TextField } from "./Field";
import { useFollowing } from "./useFollowing";

type Props = {
  label: string;
  hideLabel?: boolean;
  hint?: string;
  value: number;
  error?: string | undefined;
  onChange: (value: number) => void;
  className?: string;
};

/** A whole number; while the field holds none, its last number stands and the field says so. */
export function NumberField({ value, error, onChange, ...rest }: Props) {
  const [text, setText] = useFollowing(String(value));
  const whole = /^-?\d{1,9}$/.test(text.trim());
  return (
    <TextField
      {...rest}
      inputMode="numeric"
      value={text}
      error={whole ? error : "Write a whole number."}
      onChange={(e) => {
        setText(e.target.value);
        if (/^-?\d{1,9}$/.test(e.target.value.trim())) onChange(Number(e.target.value));
      }}
    />
  );
}
