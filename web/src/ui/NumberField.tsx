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

/** A whole number of 1 or more, or none: the field is empty then and its placeholder says what holds. */
export function OptionalNumberField({
  value,
  placeholder,
  error,
  onChange,
  ...rest
}: Omit<Props, "value" | "onChange"> & {
  value: number | undefined;
  placeholder: string;
  onChange: (value: number | undefined) => void;
}) {
  const [text, setText] = useFollowing(value ? String(value) : "");
  const fine = /^\d{0,9}$/.test(text.trim()) && text.trim() !== "0";
  return (
    <TextField
      {...rest}
      inputMode="numeric"
      placeholder={placeholder}
      value={text}
      error={fine ? error : "Write a whole number, or leave it empty."}
      onChange={(e) => {
        setText(e.target.value);
        const said = e.target.value.trim();
        if (said === "") onChange(undefined);
        else if (/^[1-9]\d{0,8}$/.test(said)) onChange(Number(said));
      }}
    />
  );
}

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
