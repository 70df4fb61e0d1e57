import { useState } from "react";
import { TextField } from "../../ui/Field";

type Props = {
  label: string;
  values: string[];
  error: string | undefined;
  onChange: (values: string[]) => void;
};

/** Words or short phrases, parted by commas. What is typed stays as it is while it says the same. */
export function WordsField({ label, values, error, onChange }: Props) {
  const [text, setText] = useState(values.join(", "));
  const same = JSON.stringify(read(text)) === JSON.stringify(values);
  return (
    <TextField
      label={label}
      placeholder="none"
      value={same ? text : values.join(", ")}
      error={error}
      onChange={(e) => {
        setText(e.target.value);
        onChange(read(e.target.value));
      }}
    />
  );
}

const read = (text: string) =>
  text
    .split(",")
    .map((word) => word.trim())
    .filter(Boolean);
