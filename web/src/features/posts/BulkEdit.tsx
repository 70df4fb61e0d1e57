import { useState } from "react";
import { Refusal } from "../../api/client";
import { Button } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { DateField } from "../../ui/DateField";
import { Field } from "../../ui/Field";
import { Sheet } from "../../ui/Sheet";
import { Tick } from "../../ui/Tick";
import { Warning } from "../../ui/Trouble";
import { isDate } from "../../ui/typed";
import { showWrong } from "../../ui/useFormOf";
import { useTopics } from "../blog/topics";
import { TagsField } from "../editor/TagsField";
import { usePeople } from "../blog/people";
import { useEditPosts, type Chosen, type FieldChange, type Outcome } from "./posts";

type Props = {
  site: string;
  chosen: Chosen;
  count: number;
  onClose: () => void;
  onDone: (outcome: Outcome) => void;
};

const asIs = -1;

/** Changes fields of many posts at once; what is not touched stays as each has it. */
export function BulkEdit({ site, chosen, count, onClose, onDone }: Props) {
  const [change, setChange] = useState<FieldChange>({});
  const edit = useEditPosts(site);
  const topics = useTopics(site).data;
  const people = usePeople(site).data ?? [];
  const refusal = edit.error instanceof Refusal ? edit.error : undefined;
  const posts = count === 1 ? "1 post" : `${count.toLocaleString("en-GB")} posts`;
  const touched = Object.values(change).some((v) => v !== undefined && !(Array.isArray(v) && v.length === 0));
  const readable = [change.notBefore, change.deadline].every((d) => !d || isDate(d));
  const set = (next: Partial<FieldChange>) => {
    edit.reset();
    setChange({ ...change, ...next });
  };
  const known = topics?.tagNames ?? [];
  return (
    <Sheet
      open
      onClose={onClose}
      title={`Edit ${posts}`}
      actions={
        <>
          <Button onClick={onClose}>Cancel</Button>
          <Button
            look="main"
            disabled={!touched || edit.isPending}
            onClick={() => (readable ? edit.mutate({ chosen, change }, { onSuccess: onDone }) : showWrong())}
          >
            Save {posts}
          </Button>
        </>
      }
    >
      {edit.error && !refusal?.problem.errors && <Warning>{edit.error.message}</Warning>}
      <div className="grid gap-3 md:grid-cols-2">
        <Field label="Category" error={refusal?.field("category")}>
          <Choice
            label="Category"
            value={change.category ?? asIs}
            options={[
              { value: asIs, name: "No change" },
              { value: 0, name: "None" },
              ...(topics?.categories ?? []).map((c) => ({ value: c.id, name: c.name })),
            ]}
            onChange={(category) => set({ category: category === asIs ? undefined : category })}
          />
        </Field>
        <Field label="Author" error={refusal?.field("author")}>
          <Choice
            label="Author"
            value={change.author ?? asIs}
            options={[
              { value: asIs, name: "No change" },
              ...people.map((p) => ({ value: p.id, name: p.name })),
            ]}
            onChange={(author) => set({ author: author === asIs ? undefined : author })}
          />
        </Field>
        <TagsField
          label="Add tags"
          tags={change.addTags ?? []}
          known={known}
          error={refusal?.field("addTags") ?? refusal?.field("tags[0]")}
          onChange={(addTags) => set({ addTags })}
        />
        <TagsField
          label="Remove tags"
          tags={change.removeTags ?? []}
          known={known}
          error={refusal?.field("removeTags")}
          onChange={(removeTags) => set({ removeTags })}
        />
        <Bound
          label="Not before"
          value={change.notBefore}
          error={refusal?.field("notBefore")}
          onChange={(notBefore) => set({ notBefore })}
        />
        <Bound
          label="Deadline"
          value={change.deadline}
          error={refusal?.field("deadline")}
          onChange={(deadline) => set({ deadline })}
        />
        <Field label="Evergreen">
          <Choice
            label="Evergreen"
            value={change.evergreen === undefined ? "" : change.evergreen ? "yes" : "no"}
            options={[
              { value: "", name: "No change" },
              { value: "yes", name: "Evergreen" },
              { value: "no", name: "Not evergreen" },
            ]}
            onChange={(value) => set({ evergreen: value === "" ? undefined : value === "yes" })}
          />
        </Field>
      </div>
      <p className="mt-3 text-xs text-faint">
        Dates are for drafts only. Posts that a change does not apply to are left as they are and listed. You
        can undo it all at once.
      </p>
    </Sheet>
  );
}

type BoundProps = {
  label: string;
  value: string | undefined;
  error: string | undefined;
  onChange: (value: string | undefined) => void;
};

/** A date for all, none for all, or as each has it. */
function Bound({ label, value, error, onChange }: BoundProps) {
  return (
    <div>
      {value !== "" && (
        <DateField
          label={label}
          optional
          placeholder="no change"
          value={value ?? ""}
          error={error}
          onChange={(date) => onChange(date || undefined)}
        />
      )}
      {value === "" && <p className="mb-1 text-sm text-soft">{label}</p>}
      <div className="mt-1">
        <Tick
          label={label === "Deadline" ? "Remove the deadline" : "Remove the date"}
          on={value === ""}
          onChange={(on) => onChange(on ? "" : undefined)}
        />
      </div>
    </div>
  );
}
