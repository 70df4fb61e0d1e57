import { z } from "zod";
import { Refusal } from "../../api/client";
import { Button } from "../../ui/Button";
import { TextField } from "../../ui/Field";
import { NumberField, OptionalNumberField } from "../../ui/NumberField";
import { named, timeOfDay, whole } from "../../ui/schema";
import { Sheet } from "../../ui/Sheet";
import { TextArea } from "../../ui/TextArea";
import { Tick } from "../../ui/Tick";
import { TimeField } from "../../ui/TimeField";
import { useSay } from "../../ui/toast";
import { Warning } from "../../ui/Trouble";
import { useFormOf } from "../../ui/useFormOf";
import { useChannelDeeds, type Channel } from "./channels";
import { ParamsField } from "./ParamsField";

const schema = z.looseObject({
  name: named("Give the channel a name."),
  apart: whole,
  aDay: whole,
  quietFrom: timeOfDay,
  quietTo: timeOfDay,
}) as unknown as z.ZodType<Channel, Channel>;

/** A channel's name, when it takes messages, and what all of them have in common. */
export function ChannelSheet({
  site,
  channel,
  onClose,
}: {
  site: string;
  channel: Channel;
  onClose: () => void;
}) {
  const form = useFormOf(schema, channel);
  const { values: c, set } = form;
  const { save } = useChannelDeeds(site);
  const say = useSay();
  const refusal = save.error instanceof Refusal ? save.error : undefined;
  const error = (field: string) => form.problem(field) ?? refusal?.field(field);
  const submit = () =>
    form.submit((passed) =>
      save.mutateAsync(passed).then(
        () => {
          say.done(`${passed.name} saved.`);
          onClose();
        },
        () => undefined,
      ),
    );
  return (
    <Sheet
      open
      onClose={onClose}
      title={channel.name}
      actions={
        <>
          <Button onClick={onClose}>Cancel</Button>
          <Button look="main" disabled={!form.changed || save.isPending} onClick={submit}>
            Save
          </Button>
        </>
      }
    >
      <div className="space-y-4">
        {save.error && !refusal?.problem.errors && <Warning>{save.error.message}</Warning>}
        <TextField
          label="Name"
          value={c.name}
          error={error("name")}
          onChange={(e) => set({ name: e.target.value })}
        />
        <div className="flex flex-wrap items-start gap-4">
          <div className="w-44">
            <NumberField
              label="Minutes between messages"
              value={c.apart}
              error={error("apart")}
              onChange={(apart) => set({ apart })}
            />
          </div>
          <div className="w-44">
            <OptionalNumberField
              label="Most messages a day"
              placeholder="any"
              value={c.aDay || undefined}
              error={error("aDay")}
              onChange={(aDay) => set({ aDay: aDay ?? 0 })}
            />
          </div>
          <TimeField
            label="Quiet from"
            value={c.quietFrom}
            error={error("quietFrom")}
            onChange={(quietFrom) => set({ quietFrom })}
          />
          <TimeField
            label="to"
            value={c.quietTo}
            error={error("quietTo")}
            onChange={(quietTo) => set({ quietTo })}
          />
          <div className="w-48">
            <TextField
              label="Time zone of its readers"
              placeholder="the blog’s"
              value={c.zone}
              error={error("zone")}
              onChange={(e) => set({ zone: e.target.value })}
            />
          </div>
        </div>
        <p className="text-xs text-soft">
          Quiet hours and the day’s limit follow that zone. A message that would be too soon waits for the
          next minute that is allowed.
        </p>
        <div className="grid gap-4 sm:grid-cols-2">
          <TextArea
            label="Text before each message"
            rows={2}
            value={c.before}
            error={error("before")}
            onChange={(e) => set({ before: e.target.value })}
          />
          <TextArea
            label="Text after each message"
            rows={2}
            value={c.after}
            error={error("after")}
            onChange={(e) => set({ after: e.target.value })}
          />
        </div>
        <Tick label="Short links, which count clicks" on={c.short} onChange={(short) => set({ short })} />
        <ParamsField
          params={c.params}
          error={error("params")}
          hint="Added to every link. {channel}, {rule} and {wording} stand for their names."
          onChange={(params) => set({ params })}
        />
      </div>
    </Sheet>
  );
}
