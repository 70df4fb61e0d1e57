import { Choice } from "../../ui/Choice";
import { NumberField, OptionalNumberField } from "../../ui/NumberField";
import type { Span } from "./rules";

const units = (["hours", "days", "weeks", "months", "years"] as const).map((value) => ({
  value,
  name: value,
}));

/** A length of time: a number and a unit. With words for none, it may be left empty. */
export function SpanField({
  label,
  span,
  none,
  error,
  onChange,
}: {
  label: string;
  span: Span;
  none?: string;
  error?: string | undefined;
  onChange: (span: Span) => void;
}) {
  return (
    <div className="flex items-start gap-1.5">
      {none === undefined ? (
        <NumberField
          label={label}
          hideLabel
          className="w-16! text-center"
          value={span.n}
          error={error}
          onChange={(n) => onChange({ ...span, n })}
        />
      ) : (
        <OptionalNumberField
          label={label}
          hideLabel
          className="w-16! text-center"
          placeholder={none}
          value={span.n || undefined}
          error={error}
          onChange={(n) => onChange({ ...span, n: n ?? 0 })}
        />
      )}
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
