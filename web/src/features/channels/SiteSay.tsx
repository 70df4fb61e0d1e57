import { z } from "zod";
import { Refusal } from "../../api/client";
import { Button } from "../../ui/Button";
import { SaveButton } from "../../ui/SaveButton";
import { whole } from "../../ui/schema";
import { Warning } from "../../ui/Trouble";
import { Unsaved } from "../../ui/Unsaved";
import { useFormOf } from "../../ui/useFormOf";
import { useTell } from "../logbook/useTell";
import { useSaveSay, type Channel, type Say } from "./channels";
import { SayFields } from "./SayFields";

export const saySchema = z.looseObject({
  announcements: z.array(z.looseObject({ after: whole.optional(), replyAfter: whole.optional() })),
}) as unknown as z.ZodType<Say, Say>;

type Props = { site: string; say: Say; channels: Channel[]; editor: boolean };

/** What is shared when a post of the blog comes out. */
export function SiteSay({ site, say: saved, channels, editor }: Props) {
  const form = useFormOf(saySchema, saved);
  const save = useSaveSay(site, 0);
  const tell = useTell(site);
  const refusal = save.error instanceof Refusal ? save.error : undefined;
  return (
    <>
      <Unsaved when={form.changed} what="what is shared when a post comes out" />
      {save.error && !refusal?.problem.errors && <Warning>{save.error.message}</Warning>}
      <SayFields
        channels={channels}
        all={form.values.announcements}
        error={(f) => form.problem(f) ?? refusal?.field(f)}
        onChange={(announcements) => editor && form.set({ announcements })}
      />
      {editor && form.changed && (
        <div className="mt-3 flex gap-2">
          <SaveButton
            name="Save messages"
            disabled={save.isPending}
            onSave={() =>
              form.submit((passed) =>
                save.mutateAsync({ announcements: passed.announcements, token: saved.token }).then(
                  () => tell("Saved. Posts that come out from now on are shared like this."),
                  () => undefined,
                ),
              )
            }
          />
          <Button onClick={() => form.take(saved)}>Discard changes</Button>
        </div>
      )}
    </>
  );
}
