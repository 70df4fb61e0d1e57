import { Trash2 } from "lucide-react";
import { AddButton } from "../../ui/AddButton";
import { IconButton } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { newTest, withPart } from "./condition";
import { ConditionTest } from "./ConditionTest";
import type { Condition, Form, Vocabulary } from "./rules";

type Props = {
  condition: Condition;
  forms: Form[];
  vocabulary: Vocabulary;
  /** What is wrong at a path of the condition. */
  problem: (path: string) => string | undefined;
  onChange: (condition: Condition) => void;
};

const groups = [
  { value: "all", name: "all of these hold" },
  { value: "any", name: "any of these holds" },
  { value: "none", name: "none of these holds" },
] as const;

/** Builds a condition by clicking: groups of tests, which may hold groups. */
export function ConditionEditor(props: Props) {
  const root: Condition = props.condition.group
    ? props.condition
    : { group: "all", parts: props.condition.test ? [props.condition] : [] };
  return <Group {...props} condition={root} path="" depth={1} />;
}

const deepest = 4;

function Group({
  condition,
  forms,
  vocabulary,
  problem,
  onChange,
  onRemove,
  path,
  depth,
}: Props & { path: string; depth: number; onRemove?: () => void }) {
  const parts = condition.parts ?? [];
  const at = (i: number) => `${path === "" ? "" : `${path}.`}parts[${i}]`;
  const own = problem(path) ?? problem(path === "" ? "parts" : `${path}.parts`);
  return (
    <div
      role="group"
      aria-label={`Apply to posts where ${groups.find((g) => g.value === condition.group)?.name}`}
      className={depth > 1 ? "rounded-md border border-line bg-ground p-2" : ""}
    >
      <div className="mb-1.5 flex items-center gap-2 text-sm">
        <span className="text-soft">{depth === 1 ? "Apply to posts where" : "where"}</span>
        <div className="w-44">
          <Choice
            label="How these combine"
            value={condition.group || "all"}
            options={[...groups]}
            onChange={(group) => onChange({ ...condition, group })}
          />
        </div>
        {onRemove && (
          <IconButton label="Remove this group" className="ml-auto" onClick={onRemove}>
            <Trash2 size={15} />
          </IconButton>
        )}
      </div>
      <ul className="space-y-1.5">
        {parts.map((part, i) => (
          // Parts have no names of their own; their place is what they are.
          <li key={i}>
            {part.group ? (
              <Group
                condition={part}
                forms={forms}
                vocabulary={vocabulary}
                problem={problem}
                path={at(i)}
                depth={depth + 1}
                onChange={(next) => onChange(withPart(condition, i, next))}
                onRemove={() => onChange(withPart(condition, i, undefined))}
              />
            ) : (
              <ConditionTest
                test={part}
                forms={forms}
                vocabulary={vocabulary}
                problem={(field) => problem(`${at(i)}${field && `.${field}`}`)}
                onChange={(next) => onChange(withPart(condition, i, next))}
                onRemove={() => onChange(withPart(condition, i, undefined))}
              />
            )}
          </li>
        ))}
      </ul>
      {own && (
        <p role="alert" className="mt-1.5 text-sm text-madder">
          {own}
        </p>
      )}
      <div className="mt-2 flex gap-2">
        <AddButton onAdd={() => onChange({ ...condition, parts: [...parts, newTest(forms[0]!)] })}>
          Add a condition
        </AddButton>
        {depth < deepest && (
          <AddButton
            look="quiet"
            onAdd={() =>
              onChange({ ...condition, parts: [...parts, { group: "none", parts: [newTest(forms[0]!)] }] })
            }
          >
            Add a group
          </AddButton>
        )}
      </div>
    </div>
  );
}
