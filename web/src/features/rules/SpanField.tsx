import { Choice } from "../../ui/Choice";
import { NumberField } from "../../ui/NumberField";
import type { Span } from "./rules";

const units = (["hours", "days", "weeks", "months", "years"] as const).map((value) => ({
  value,
  name: value,
}));

/** A length of time: a number and a unit. */
export function SpanField({
  label,
  span,
  error,
  onChange,
}: {
  label: string;
  span: Span;
  error?: string | undefined;
  onChange: (span: Span) => void;
}) {
  return (
    <div className="flex items-start gap-1.5">
      <NumberField
        label={label}
        hideLabel
        className="w-16! text-center"
        value={span.n}
        error={error}
        onChange={(n) => onChange({ ...span, n })}
      />
      <div className="w-24">
        <Choice
          label={`${label}, unit`}
          value={span.unit}
          options={units}
          onChange={(unit) => onChange({ ...span, unit })}
        />
      </div>
    </div>
  );
}
