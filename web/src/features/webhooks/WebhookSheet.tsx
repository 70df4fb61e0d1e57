import { useState } from "react";
import { Refusal } from "../../api/client";
import { Button } from "../../ui/Button";
import { TextField } from "../../ui/Field";
import { Sheet } from "../../ui/Sheet";
import { Tick } from "../../ui/Tick";
import { useSay } from "../../ui/toast";
import { Warning } from "../../ui/Trouble";
import { useWebhookDeeds, type HookEvent, type Webhook } from "./webhooks";

type Props = {
  site: string;
  webhook: Webhook | undefined;
  events: HookEvent[];
  onSecret: (secret: string) => void;
  onClose: () => void;
};

/** Where a program is, and what it is told. */
export function WebhookSheet({ site, webhook, events, onSecret, onClose }: Props) {
  const [name, setName] = useState(webhook?.name ?? "");
  const [address, setAddress] = useState(webhook?.address ?? "");
  const [chosen, setChosen] = useState(webhook?.events ?? ["post.published"]);
  const { add, save } = useWebhookDeeds(site);
  const say = useSay();
  const trouble = add.error ?? save.error;
  const refusal = trouble instanceof Refusal ? trouble : undefined;
  const body = { name, address, events: chosen };

  function go() {
    const doing = webhook
      ? save
          .mutateAsync({ ...body, id: webhook.id, on: webhook.on, version: webhook.version })
          .then(() => say.done("Saved."))
      : add.mutateAsync(body).then(({ secret }) => onSecret(secret));
    doing.then(onClose, () => undefined);
  }

  return (
    <Sheet
      open
      wide
      onClose={onClose}
      title={webhook ? `Edit ${webhook.name}` : "New webhook"}
      actions={
        <>
          <Button onClick={onClose}>Cancel</Button>
          <Button
            look="main"
            disabled={
              add.isPending || save.isPending || !name.trim() || !address.trim() || chosen.length === 0
            }
            onClick={go}
          >
            {webhook ? "Save" : "Add webhook"}
          </Button>
        </>
      }
    >
      <div className="space-y-4">
        {trouble && !refusal?.problem.errors && <Warning>{trouble.message}</Warning>}
        <div className="grid gap-3 sm:grid-cols-2">
          <TextField
            label="Name"
            placeholder="such as: the print shop"
            value={name}
            error={refusal?.field("name")}
            onChange={(e) => setName(e.target.value)}
          />
          <TextField
            label="Address"
            placeholder="https://"
            value={address}
            error={refusal?.field("address")}
            onChange={(e) => setAddress(e.target.value)}
          />
        </div>
        <fieldset>
          <legend className="mb-1 text-sm text-soft">It is told when</legend>
          {refusal?.field("events") && <Warning>{refusal.field("events")}</Warning>}
          <ul className="grid gap-x-6 gap-y-1.5 sm:grid-cols-2">
            {events.map((e) => (
              <li key={e.name}>
                <Tick
                  label={e.name}
                  on={chosen.includes(e.name)}
                  onChange={(on) => setChosen(on ? [...chosen, e.name] : chosen.filter((c) => c !== e.name))}
                />
                <p className="pl-5.5 text-xs text-soft">{e.about}</p>
              </li>
            ))}
          </ul>
        </fieldset>
      </div>
    </Sheet>
  );
}
