type Props = {
  value: string;
  error: string | undefined;
  autoFocus?: boolean;
  onChange: (title: string) => void;
};

/** The title, written as readers will see it: one line, however long. */
export function TitleField({ value, error, autoFocus = false, onChange }: Props) {
  return (
    <>
      <textarea
        aria-label="Title"
        rows={1}
        aria-invalid={Boolean(error)}
        aria-describedby={error ? "title-error" : undefined}
        placeholder="Title"
        autoFocus={autoFocus}
        dir="auto"
        value={value}
        onChange={(e) => onChange(e.target.value.replaceAll(/\s*\n\s*/g, " "))}
        onKeyDown={(e) => {
          if (e.key === "Enter") e.preventDefault();
        }}
        className="field-sizing-content w-full resize-none rounded-md border border-transparent bg-transparent py-1 font-title text-2xl placeholder:text-faint aria-invalid:border-madder aria-invalid:px-2"
      />
      {error && (
        <p id="title-error" role="alert" className="text-sm text-madder">
          {error}
        </p>
      )}
    </>
  );
}
