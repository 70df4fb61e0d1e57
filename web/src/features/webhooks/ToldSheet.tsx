import { useState } from "react";
import { Button } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { Sheet } from "../../ui/Sheet";
import { shownPlace } from "../../ui/siteClock";
import { useSay } from "../../ui/toast";
import { Trouble, Warning } from "../../ui/Trouble";
import { Waiting } from "../../ui/Waiting";
import { useTold, useWebhookDeeds, type HookEvent, type Told, type Webhook } from "./webhooks";

const states: Record<Told["state"], { mark: string; word: string; look: string }> = {
  waiting: { mark: "◔", word: "Waiting", look: "text-away" },
  delivered: { mark: "✓", word: "Delivered", look: "text-ink" },
  failed: { mark: "!", word: "Failed", look: "text-madder" },
};

type Props = { site: string; webhook: Webhook; events: HookEvent[]; onClose: () => void };

/** What a webhook was told, what came of it, and a sample to try it with. */
export function ToldSheet({ site, webhook, events, onClose }: Props) {
  const told = useTold(site, webhook.id);
  const [event, setEvent] = useState(webhook.events[0] ?? events[0]?.name ?? "");
  const { test, again } = useWebhookDeeds(site);
  const say = useSay();
  return (
    <Sheet
      open
      wide
      onClose={onClose}
      title={`Deliveries to ${webhook.name}`}
      actions={
        <Button look="main" onClick={onClose}>
          Close
        </Button>
      }
    >
      <div className="mb-3 flex flex-wrap items-end gap-2">
        <div className="w-56">
          <Choice
            label="Event"
            value={event}
            options={events.map((e) => ({ value: e.name, name: e.name }))}
            onChange={setEvent}
          />
        </div>
        <Button
          disabled={test.isPending}
          onClick={() =>
            test
              .mutateAsync({ id: webhook.id, event })
              .then(
                (d) =>
                  d.state === "delivered" ? say.done("The sample arrived.") : say.trouble(d.error ?? ""),
                say.trouble,
              )
          }
        >
          {test.isPending ? "Sending…" : "Send a sample"}
        </Button>
        <span className="pb-1.5 text-sm text-soft">made from the latest such event here</span>
      </div>
      {told.isPending ? (
        <Waiting what="the deliveries" />
      ) : told.error ? (
        <Trouble error={told.error} retry={() => void told.refetch()} />
      ) : told.data.length === 0 ? (
        <p className="text-sm text-soft">It has been told nothing yet.</p>
      ) : (
        <ul className="divide-y divide-line border-y border-line">
          {told.data.map((d) => (
            <li key={d.id} className="py-1.5 text-sm">
              <div className="flex flex-wrap items-center gap-x-3 gap-y-1">
                <span className="w-32 shrink-0">{shownPlace(d.place)}</span>
                <code className="w-40 shrink-0">{d.event}</code>
                <span className={`min-w-0 flex-1 ${states[d.state].look}`}>
                  <span aria-hidden>{states[d.state].mark}</span> {states[d.state].word}
                  {d.sample && <span className="text-soft"> · sample</span>}
                  {d.tries > 1 && <span className="text-soft"> · {d.tries} tries</span>}
                  {d.next && <span className="text-soft"> · again {shownPlace(d.next)}</span>}
                </span>
                {d.state !== "waiting" && (
                  <Button
                    look="quiet"
                    disabled={again.isPending}
                    onClick={() =>
                      again.mutateAsync(d.id).then(() => say.done("It is on its way again."), say.trouble)
                    }
                  >
                    Send again
                  </Button>
                )}
              </div>
              {d.error && <Warning>{d.error}</Warning>}
              {d.body !== undefined && (
                <details className="mt-1">
                  <summary className="text-xs text-soft">What was sent</summary>
                  <pre className="mt-1 max-h-60 overflow-auto rounded-md bg-sunk p-2 text-xs wrap-anywhere whitespace-pre-wrap">
                    {JSON.stringify(d.body, null, 2)}
                  </pre>
                  <p className="mt-1 text-xs text-soft">webhook-id: {d.key}</p>
                </details>
              )}
            </li>
          ))}
        </ul>
      )}
    </Sheet>
  );
}
