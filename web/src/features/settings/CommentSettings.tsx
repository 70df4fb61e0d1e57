import { z } from "zod";
import { Refusal } from "../../api/client";
import { Button } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { Field } from "../../ui/Field";
import { NumberField, OptionalNumberField } from "../../ui/NumberField";
import { Part } from "../../ui/Part";
import { SaveButton } from "../../ui/SaveButton";
import { whole } from "../../ui/schema";
import { Tick } from "../../ui/Tick";
import { Trouble, Warning } from "../../ui/Trouble";
import { Unsaved } from "../../ui/Unsaved";
import { Waiting } from "../../ui/Waiting";
import { useCommenting, useSaveCommenting, type Commenting } from "../comments/comments";
import { useTell } from "../logbook/useTell";
import { usePlanner } from "../session/session";
import { MovedOn } from "../../ui/MovedOn";
import { useKept } from "../../ui/useKept";

const schema = z.looseObject({ days: whole, links: whole }) as unknown as z.ZodType<Commenting, Commenting>;

/** What holds for readers' comments. */
export function CommentSettings({ site }: { site: string }) {
  const commenting = useCommenting(site);
  if (commenting.isPending) return <Waiting what="the settings" />;
  if (commenting.error) return <Trouble error={commenting.error} retry={() => void commenting.refetch()} />;
  return <CommentForm key={site} site={site} saved={commenting.data} />;
}

function CommentForm({ site, saved }: { site: string; saved: Commenting }) {
  const form = useKept(schema, saved);
  const { values, set, changed } = form;
  const save = useSaveCommenting(site);
  const tell = useTell(site);
  const editor = usePlanner(site);
  const refusal = save.error instanceof Refusal ? save.error : undefined;
  const error = (field: string) => form.problem(field) ?? refusal?.field(field);
  async function store(next: Commenting) {
    const kept = await save.mutateAsync(next);
    tell("Settings saved.");
    return kept;
  }
  return (
    <>
      <div className="mb-4 flex items-center gap-3">
        <Unsaved when={changed} what="the settings" />
        <h1 className="font-title text-2xl">Comments</h1>
        {editor && (
          <div className="ml-auto flex gap-2">
            {changed && <Button onClick={() => form.take(saved)}>Discard changes</Button>}
            <SaveButton
              name="Save settings"
              disabled={!changed || save.isPending}
              onSave={() => form.save(store)}
            />
          </div>
        )}
      </div>
      {form.movedOn && <MovedOn what="the settings" onTake={() => form.take(saved)} />}
      {save.error && !refusal?.problem.errors && <Warning>{save.error.message}</Warning>}
      <Part title="Who may write" hint="Each post also has a tick of its own, in the editor.">
        <div className="max-w-md space-y-3">
          <Tick
            label="Readers may comment on posts"
            on={values.open}
            onChange={(on) => editor && set({ open: on })}
          />
          <OptionalNumberField
            label="Close comments after this many days"
            placeholder="never"
            value={values.days}
            error={error("days")}
            onChange={(days) => set({ days: days ?? 0 })}
          />
        </div>
      </Part>
      <Part title="Approval" hint="Comments that wait are under Posts, Comments.">
        <div className="max-w-md space-y-3">
          <Field label="Wait for approval" error={error("hold")}>
            <Choice
              label="Wait for approval"
              value={values.hold}
              options={[
                { value: "all", name: "all comments" },
                { value: "unknown", name: "comments by readers new to the blog" },
              ]}
              onChange={(hold) => editor && set({ hold })}
            />
          </Field>
          <p className="text-xs text-soft">
            A reader is known by a cookie once a comment of theirs has been approved. No addresses are kept.
          </p>
          <NumberField
            label="Maximum links in a comment"
            value={values.links}
            error={error("links")}
            onChange={(links) => set({ links })}
          />
        </div>
      </Part>
    </>
  );
}
