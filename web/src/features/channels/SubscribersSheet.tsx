import { useState } from "react";
import { Refusal } from "../../api/client";
import { Button } from "../../ui/Button";
import { Copied } from "../../ui/Copied";
import { NumberField } from "../../ui/NumberField";
import { Sheet } from "../../ui/Sheet";
import { shownMoment } from "../../ui/siteClock";
import { TextArea } from "../../ui/TextArea";
import { useSay } from "../../ui/toast";
import { Trouble, Warning } from "../../ui/Trouble";
import { Waiting } from "../../ui/Waiting";
import { useSubscriberDeeds, useSubscribers, type Channel } from "./channels";

const states = { asked: "Has not confirmed", on: "Gets mails", off: "Unsubscribed" } as const;

/** Who gets the mails of a mailing list, and how quickly it sends. */
export function SubscribersSheet({
  site,
  channel,
  onClose,
}: {
  site: string;
  channel: Channel;
  onClose: () => void;
}) {
  const list = useSubscribers(site, channel.id);
  const { ask, remove, rate } = useSubscriberDeeds(site, channel.id);
  const [text, setText] = useState("");
  const [aMinute, setAMinute] = useState(channel.aMinute ?? 60);
  const say = useSay();
  const emails = text.split(/[\s,;]+/).filter(Boolean);
  const refusal = ask.error instanceof Refusal ? ask.error : undefined;
  const counts = list.data?.counts ?? {};
  return (
    <Sheet
      open
      wide
      onClose={onClose}
      title={`Subscribers of ${channel.name}`}
      actions={
        <Button look="main" onClick={onClose}>
          Close
        </Button>
      }
    >
      {list.isPending ? (
        <Waiting what="the subscribers" />
      ) : list.error ? (
        <Trouble error={list.error} retry={() => void list.refetch()} />
      ) : (
        <div className="space-y-4">
          <p className="text-sm">
            <span className="font-semibold">{(counts.on ?? 0).toLocaleString("en-GB")}</span> get mails
            {counts.asked ? `, ${counts.asked} have not confirmed` : ""}
            {counts.off ? `, ${counts.off} unsubscribed` : ""}.
          </p>
          <div>
            <p className="mb-1 text-sm text-soft">
              Readers ask for mails on this page of the blog; its footer links to it.
            </p>
            <Copied label="Page for readers" text={list.data.page} />
          </div>
          <div>
            {ask.error && !refusal?.problem.errors && <Warning>{ask.error.message}</Warning>}
            <TextArea
              label="Ask people"
              hint="One address a line. Each is sent a mail in which they confirm; before that they get nothing."
              rows={3}
              value={text}
              error={refusal?.field("emails")}
              onChange={(e) => setText(e.target.value)}
            />
            <Button
              className="mt-1"
              disabled={emails.length === 0 || ask.isPending}
              onClick={() =>
                void ask.mutateAsync(emails).then(
                  () => {
                    setText("");
                    say.done(
                      emails.length === 1 ? "1 person is asked." : `${emails.length} people are asked.`,
                    );
                  },
                  () => undefined,
                )
              }
            >
              Ask them
            </Button>
          </div>
          <div className="flex flex-wrap items-end gap-2">
            <div className="w-32">
              <NumberField
                label="Mails a minute"
                value={aMinute}
                error={aMinute < 1 || aMinute > 1000 ? "From 1 to 1,000." : undefined}
                onChange={setAMinute}
              />
            </div>
            <Button
              disabled={aMinute === list.data.aMinute || aMinute < 1 || aMinute > 1000 || rate.isPending}
              onClick={() => rate.mutateAsync(aMinute).then(() => say.done("Saved."), say.trouble)}
            >
              Save
            </Button>
          </div>
          {list.data.subscribers.length > 0 && (
            <ul className="divide-y divide-line border-y border-line text-sm">
              {list.data.subscribers.map((s) => (
                <li key={s.id} className="flex flex-wrap items-center gap-x-3 gap-y-1 py-1">
                  <span className="min-w-48 flex-1 wrap-anywhere">{s.email}</span>
                  <span className={`w-40 ${s.state === "on" ? "" : "text-soft"}`}>{states[s.state]}</span>
                  <span className="w-36 text-soft">{shownMoment(s.since)}</span>
                  <Button
                    look="quiet"
                    disabled={remove.isPending}
                    onClick={() =>
                      remove.mutateAsync(s.id).then(() => say.done(`${s.email} is removed.`), say.trouble)
                    }
                  >
                    Remove<span className="sr-only"> {s.email}</span>
                  </Button>
                </li>
              ))}
            </ul>
          )}
        </div>
      )}
    </Sheet>
  );
}
