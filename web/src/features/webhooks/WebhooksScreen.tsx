import { useState } from "react";
import { Link, useParams } from "react-router";
import { AddButton } from "../../ui/AddButton";
import { Button } from "../../ui/Button";
import { Copied } from "../../ui/Copied";
import { Sheet } from "../../ui/Sheet";
import { useSay } from "../../ui/toast";
import { Trouble } from "../../ui/Trouble";
import { Waiting } from "../../ui/Waiting";
import { usePlanner } from "../session/session";
import { ToldSheet } from "./ToldSheet";
import { WebhookSheet } from "./WebhookSheet";
import { useWebhookDeeds, useWebhooks, type Webhook } from "./webhooks";

/** Other programs that are told what happens on the blog. */
export default function WebhooksScreen() {
  const { site = "" } = useParams();
  const editor = usePlanner(site);
  const all = useWebhooks(site);
  const [editing, setEditing] = useState<Webhook | "new">();
  const [told, setTold] = useState<Webhook>();
  const [secret, setSecret] = useState<string>();
  if (all.isPending) return <Waiting what="the webhooks" />;
  if (all.error) return <Trouble error={all.error} retry={() => void all.refetch()} />;
  const { webhooks, events } = all.data;
  return (
    <main className="mx-auto w-full max-w-5xl px-5 pt-4 pb-12">
      <p className="text-sm">
        <Link to={`/${site}/channels`} className="text-soft underline-offset-2 hover:underline">
          Channels
        </Link>
      </p>
      <h1 className="mb-1 font-title text-2xl">Webhooks</h1>
      <p className="mb-3 text-sm text-soft">
        A webhook is the address of another program that is told what happens on this blog, as it happens.
      </p>
      {webhooks.length === 0 ? (
        <p className="mb-3 rounded-md border border-dashed border-strong px-3 py-3 text-sm text-soft">
          No program is told anything yet.
        </p>
      ) : (
        <ul aria-label="Your webhooks" className="mb-3 divide-y divide-line border-y border-line">
          {webhooks.map((w) => (
            <HookRow
              key={w.id}
              site={site}
              webhook={w}
              onEdit={() => setEditing(w)}
              onTold={() => setTold(w)}
              onSecret={setSecret}
            />
          ))}
        </ul>
      )}
      {editor && <AddButton onAdd={() => setEditing("new")}>Add a webhook</AddButton>}
      {editing && (
        <WebhookSheet
          site={site}
          webhook={editing === "new" ? undefined : editing}
          events={events}
          onSecret={setSecret}
          onClose={() => setEditing(undefined)}
        />
      )}
      {told && <ToldSheet site={site} webhook={told} events={events} onClose={() => setTold(undefined)} />}
      {secret && (
        <Sheet
          open
          onClose={() => setSecret(undefined)}
          title="The webhook’s secret"
          actions={
            <Button look="main" onClick={() => setSecret(undefined)}>
              Close
            </Button>
          }
        >
          <div className="space-y-2 text-sm">
            <p>
              Give it to the program that receives the messages: by it, the program tells that they come from
              here. It isn’t shown again.
            </p>
            <Copied label="Secret" text={secret} />
          </div>
        </Sheet>
      )}
    </main>
  );
}

type RowProps = {
  site: string;
  webhook: Webhook;
  onEdit: () => void;
  onTold: () => void;
  onSecret: (secret: string) => void;
};

function HookRow({ site, webhook: w, onEdit, onTold, onSecret }: RowProps) {
  const { save, remove, rotate } = useWebhookDeeds(site);
  const say = useSay();
  const [asking, setAsking] = useState(false);
  const state = !w.on
    ? { mark: "‖", word: "Off", look: "text-away" }
    : w.failingSince
      ? { mark: "!", word: "Not answering", look: "text-madder font-semibold" }
      : { mark: "●", word: "On", look: "text-ink" };
  return (
    <li className="flex flex-wrap items-center gap-x-4 gap-y-1.5 py-2.5">
      <div className="min-w-56 flex-1">
        <p className="text-base font-semibold">{w.name}</p>
        <p className="text-xs wrap-anywhere text-soft">{w.address}</p>
        <p className="text-xs text-soft">{w.events.join(", ")}</p>
      </div>
      <div className="w-52 max-md:w-full">
        <p className={`text-sm ${state.look}`}>
          <span aria-hidden>{state.mark}</span> {state.word}
        </p>
        {w.offWhy && <p className="text-xs text-soft">{w.offWhy}</p>}
        {w.on && w.failingSince && (
          <p className="text-xs text-soft">It is tried again, and turned off after five days.</p>
        )}
        {w.oldUntil && <p className="text-xs text-soft">The old secret still signs, for a day.</p>}
      </div>
      <div className="flex flex-wrap items-center gap-1.5">
        <Button onClick={onTold}>Deliveries…</Button>
        <Button
          disabled={save.isPending}
          onClick={() =>
            save
              .mutateAsync({
                id: w.id,
                name: w.name,
                address: w.address,
                events: w.events,
                on: !w.on,
                version: w.version,
              })
              .then(() => say.done(w.on ? `${w.name} is off.` : `${w.name} is on.`), say.trouble)
          }
        >
          {w.on ? "Turn off" : "Turn on"}
        </Button>
        <Button onClick={onEdit}>Edit…</Button>
        <Button
          disabled={rotate.isPending}
          onClick={() => rotate.mutateAsync(w).then((made) => onSecret(made.secret), say.trouble)}
        >
          New secret
        </Button>
        <Button onClick={() => setAsking(true)}>Delete…</Button>
      </div>
      {asking && (
        <Sheet
          open
          onClose={() => setAsking(false)}
          title={`Delete ${w.name}?`}
          actions={
            <>
              <Button onClick={() => setAsking(false)}>Cancel</Button>
              <Button
                look="trouble"
                disabled={remove.isPending}
                onClick={() =>
                  remove.mutateAsync(w).then(() => say.done(`${w.name} is deleted.`), say.trouble)
                }
              >
                Delete this webhook
              </Button>
            </>
          }
        >
          <p className="text-sm">It is told nothing more, and the list of its deliveries goes with it.</p>
        </Sheet>
      )}
    </li>
  );
}
