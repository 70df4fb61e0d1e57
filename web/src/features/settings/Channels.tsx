import { ExternalLink } from "lucide-react";
import { useMutation } from "@tanstack/react-query";
import { z } from "zod";
import { answer, api, Refusal, type Schemas } from "../../api/client";
import { useRefresh } from "../../api/live";
import { Button } from "../../ui/Button";
import { NumberField, OptionalNumberField } from "../../ui/NumberField";
import { timeOfDay, whole } from "../../ui/schema";
import { TimeField } from "../../ui/TimeField";
import { useSay } from "../../ui/toast";
import { Warning } from "../../ui/Trouble";
import { Unsaved } from "../../ui/Unsaved";
import { useFormOf } from "../../ui/useFormOf";
import { useRules } from "../rules/rules";

type Channel = Schemas["Channel"];

/** When each channel takes messages. */
export function Channels({ site }: { site: string }) {
  const rules = useRules(site);
  if (!rules.data) return null;
  if (rules.data.channels.length === 0)
    return <p className="text-sm text-soft">The blog has no channel, so nothing is shared.</p>;
  return rules.data.channels.map((c) => <ChannelForm key={`${c.id}-${c.version}`} site={site} saved={c} />);
}

const channelSchema = z.looseObject({
  apart: whole,
  aDay: whole,
  quietFrom: timeOfDay,
  quietTo: timeOfDay,
}) as unknown as z.ZodType<Channel, Channel>;

function ChannelForm({ site, saved }: { site: string; saved: Channel }) {
  const form = useFormOf(channelSchema, saved);
  const { values: channel, set, changed } = form;
  const refresh = useRefresh(site);
  const say = useSay();
  const save = useMutation({
    mutationFn: ({ id, apart, aDay, quietFrom, quietTo, zone, version }: Channel) =>
      answer(
        api.PUT("/api/v1/sites/{site}/channels/{id}", {
          params: { path: { site, id } },
          body: { apart, aDay, quietFrom, quietTo, zone, version },
        }),
      ),
    onSettled: () => refresh("rules"),
  });
  const refusal = save.error instanceof Refusal ? save.error : undefined;
  return (
    <div className="space-y-2">
      <Unsaved when={changed} what={saved.name} />
      <p className="text-sm">
        <span className="font-semibold">{saved.name}</span>{" "}
        <a
          href={saved.wall}
          target="_blank"
          rel="noreferrer"
          className="inline-flex items-center gap-1 underline underline-offset-2"
        >
          its wall <ExternalLink size={12} aria-label="opens in a new tab" />
        </a>{" "}
        <span className="text-soft">
          takes {saved.graphemes} characters, a link counts {saved.linkCost}, {saved.hashtags} hashtags at
          most.
        </span>
      </p>
      {save.error && <Warning>{save.error.message}</Warning>}
      <div className="flex flex-wrap items-start gap-4">
        <div className="w-44">
          <NumberField
            label="Minutes between messages"
            value={channel.apart}
            error={refusal?.field("apart")}
            onChange={(apart) => set({ apart })}
          />
        </div>
        <div className="w-44">
          <OptionalNumberField
            label="Most messages a day"
            placeholder="any"
            value={channel.aDay || undefined}
            error={refusal?.field("aDay")}
            onChange={(aDay) => set({ aDay: aDay ?? 0 })}
          />
        </div>
        <TimeField
          label="Quiet from"
          value={channel.quietFrom}
          error={refusal?.field("quietFrom")}
          onChange={(quietFrom) => set({ quietFrom })}
        />
        <TimeField
          label="to"
          value={channel.quietTo}
          error={refusal?.field("quietTo")}
          onChange={(quietTo) => set({ quietTo })}
        />
        <Button
          className="mt-6"
          disabled={!changed || save.isPending}
          onClick={() =>
            form.submit((passed) =>
              save.mutateAsync(passed).then(
                () => say.done(`${saved.name} saved.`),
                () => undefined,
              ),
            )
          }
        >
          Save {saved.name}
        </Button>
      </div>
    </div>
  );
}
