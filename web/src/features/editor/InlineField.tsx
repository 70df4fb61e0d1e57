import { useId, type ReactNode } from "react";

type Props = {
  label: string;
  /** What stands before what is typed. */
  before: string;
  value: string;
  placeholder?: string;
  error: string | undefined;
  onChange: (value: string) => void;
  children?: ReactNode;
};

/** A field in a line of its own below the title, which looks like text until it is used. */
export function InlineField({ label, before, value, placeholder, error, onChange, children }: Props) {
  const id = useId();
  return (
    <div className="text-sm text-soft">
      <label className="flex min-w-0 items-center">
        <span className="shrink-0">{before}</span>
        <input
          aria-label={label}
          aria-invalid={Boolean(error)}
          aria-describedby={error ? id : undefined}
          value={value}
          placeholder={placeholder}
          onChange={(e) => onChange(e.target.value)}
          className="min-w-0 flex-1 rounded-sm border border-transparent bg-transparent px-1 text-ink placeholder:text-faint hover:border-line aria-invalid:border-madder"
        />
      </label>
      {error && (
        <p id={id} role="alert" className="text-madder">
          {error}
        </p>
      )}
      {children}
    </div>
  );
}
