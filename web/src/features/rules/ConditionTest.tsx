import { Trash2 } from "lucide-react";
import { IconButton } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { DateField } from "../../ui/DateField";
import { TextField } from "../../ui/Field";
import { NumberField } from "../../ui/NumberField";
import { inWay, newTest } from "./condition";
import type { Condition, Form, Vocabulary } from "./rules";
import { SpanField } from "./SpanField";
import { ValuesField } from "./ValuesField";

type Props = {
  test: Condition;
  forms: Form[];
  vocabulary: Vocabulary;
  problem: (field: string) => string | undefined;
  onChange: (test: Condition) => void;
  onRemove: () => void;
};

/** One test: what it looks at, how it compares, and what with. */
export function ConditionTest({ test, forms, vocabulary, problem, onChange, onRemove }: Props) {
  const form = forms.find((f) => f.test === test.test) ?? forms[0]!;
  const way = form.ways.find((w) => w.match === test.match) ?? form.ways[0]!;
  const needs = way.needs ?? [];
  const set = (change: Partial<Condition>) => onChange({ ...test, ...change });
  const bad = problem("values") ?? problem("values[0]");
  return (
    <div className="rounded-md border border-line bg-sheet py-1.5 pr-1 pl-2">
      <div className="flex flex-wrap items-start gap-1.5">
        <div className="w-40">
          <Choice
            label="What it checks"
            value={form.test}
            options={forms.map((f) => ({ value: f.test, name: f.label }))}
            onChange={(name) => onChange(newTest(forms.find((f) => f.test === name)!))}
          />
        </div>
        {needs.includes("field") && (
          <NamedField
            names={vocabulary.fields}
            value={test.field ?? ""}
            error={problem("field")}
            onChange={(field) => set({ field })}
          />
        )}
        <div className={form.test === "field" ? "w-52" : "w-40"}>
          <Choice
            label="Comparison"
            value={way.match}
            options={form.ways.map((w) => ({ value: w.match, name: w.label }))}
            onChange={(match) => onChange(inWay(test, form, match))}
          />
        </div>
        {needs.includes("values") && (
          <ValuesField
            values={test.values ?? []}
            known={knownOf(form, vocabulary)}
            free={form.from === "" || form.from === undefined}
            error={bad}
            onChange={(values) => set({ values })}
          />
        )}
        {needs.includes("value") && (
          <div className="min-w-40 flex-1">
            <TextField
              label="What with"
              hideLabel
              value={test.values?.[0] ?? ""}
              error={bad}
              onChange={(e) => set({ values: e.target.value === "" ? [] : [e.target.value] })}
            />
          </div>
        )}
        {needs.includes("number") && (
          <NumberField
            label="Number"
            hideLabel
            className="w-20! text-center"
            value={test.n ?? 0}
            error={problem("n")}
            onChange={(n) => set({ n })}
          />
        )}
        {needs.includes("span") && (
          <SpanField
            label="How long"
            span={{ n: test.n ?? 0, unit: test.unit ?? "days" }}
            error={problem("n") ?? problem("unit")}
            onChange={({ n, unit }) => set({ n, unit })}
          />
        )}
        {needs.includes("date") && (
          <DateField
            label="Date"
            hideLabel
            toward="back"
            value={test.date ?? ""}
            error={problem("date")}
            onChange={(date) => set({ date })}
          />
        )}
        {needs.includes("days") && (
          <div className="flex items-start gap-1.5">
            <span className="pt-1.5 text-sm text-soft">in the last</span>
            <NumberField
              label="Days"
              hideLabel
              className="w-16! text-center"
              value={test.days ?? 30}
              error={problem("days")}
              onChange={(days) => set({ days })}
            />
            <span className="pt-1.5 text-sm text-soft">days</span>
          </div>
        )}
        <IconButton label="Remove this condition" className="mt-0.5 ml-auto" onClick={onRemove}>
          <Trash2 size={15} />
        </IconButton>
      </div>
      {(problem("") ?? problem("match")) && (
        <p role="alert" className="mt-1 text-xs text-madder">
          {problem("") ?? problem("match")}
        </p>
      )}
    </div>
  );
}

function knownOf(form: Form, v: Vocabulary): string[] {
  switch (form.from) {
    case "categories":
      return v.categories;
    case "tags":
      return v.tags;
    case "authors":
      return v.authors;
    case "imports":
      return v.imports;
    case "list":
      return form.choices ?? [];
  }
  return [];
}

/** A custom field's name, with those that posts have offered. */
function NamedField({
  names,
  value,
  error,
  onChange,
}: {
  names: string[];
  value: string;
  error: string | undefined;
  onChange: (name: string) => void;
}) {
  return (
    <div className="w-32">
      <TextField
        label="Custom field"
        hideLabel
        placeholder="field"
        list="custom-fields"
        value={value}
        error={error}
        onChange={(e) => onChange(e.target.value)}
      />
      <datalist id="custom-fields">
        {names.map((n) => (
          <option key={n} value={n} />
        ))}
      </datalist>
    </div>
  );
}
