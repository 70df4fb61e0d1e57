import { TextField } from "./Field";
import { readWhole } from "./typed";
import { useTyped } from "./useTyped";

type Props = {
  label: string;
  hideLabel?: boolean;
  hint?: string;
  value: number;
  error?: string | undefined;
  onChange: (value: number) => void;
  className?: string;
  readOnly?: boolean;
};

/** A whole number. What cannot be read is handed on as NaN: no form takes it. */
export function NumberField({ value, error, onChange, ...rest }: Props) {
  const field = useTyped(value, onChange, {
    read: readWhole,
    show: (n) => (Number.isNaN(n) ? "" : String(n)),
    unreadable: () => NaN,
  });
  return (
    <TextField
      {...rest}
      inputMode="numeric"
      value={field.text}
      error={field.wrong("Enter a whole number.", error)}
      onChange={(e) => field.type(e.target.value)}
      onBlur={field.leave}
      onKeyDown={field.key}
    />
  );
}

/**
 * A whole number of 1 or more, or none: the field is empty then and its placeholder says what holds. A 0 is none, too:
 * it is left empty.
 */
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
  // None is 0 within.
  const field = useTyped(value ?? 0, (n) => onChange(n === 0 ? undefined : n), {
    read: (text) => {
      if (text.trim() === "") return 0;
      const n = readWhole(text);
      return n !== undefined && n >= 0 ? n : undefined;
    },
    show: (n) => (n === 0 || Number.isNaN(n) ? "" : String(n)),
    unreadable: () => NaN,
  });
  return (
    <TextField
      {...rest}
      inputMode="numeric"
      placeholder={placeholder}
      value={field.text}
      error={field.wrong("Enter a whole number, or leave it empty.", error)}
      onChange={(e) => field.type(e.target.value)}
      onBlur={field.leave}
      onKeyDown={field.key}
    />
  );
}
