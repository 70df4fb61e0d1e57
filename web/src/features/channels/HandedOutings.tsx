import { useState } from "react";
import { Refusal } from "../../api/client";
import { Button } from "../../ui/Button";
import { Copied } from "../../ui/Copied";
import { TextField } from "../../ui/Field";
import { Sheet } from "../../ui/Sheet";
import { shownPlace } from "../../ui/siteClock";
import { useSay } from "../../ui/toast";
import { useOutingDeeds, useOutings, type Planned } from "./channels";

/** Messages that were handed to somebody outside: they are sent when somebody says so. */
export function HandedOutings({ site, editor }: { site: string; editor: boolean }) {
  const handed = useOutings(site).data?.handed ?? [];
  const [open, setOpen] = useState<{ outing: Planned; sent: boolean }>();
  if (handed.length === 0) return null;
  const title =
    handed.length === 1 ? "1 message to send by hand" : `${handed.length} messages to send by hand`;
  return (
    <section aria-label={title} className="mb-4 rounded-md border border-strong px-3 py-2">
      <h2 className="text-base font-semibold">{title}</h2>
      <ul className="divide-y divide-line">
        {handed.map((o) => (
          <li key={o.id} className="flex flex-wrap items-center gap-x-3 gap-y-1.5 py-1.5 text-sm">
            <span className="w-32 shrink-0 font-semibold">{shownPlace(o.place)}</span>
            <span className="w-28 shrink-0 truncate">{o.channel}</span>
            <div className="min-w-56 flex-1">
              <Copied label={`Message for ${o.channel}`} text={o.text} />
            </div>
            {editor && (
              <>
                <Button onClick={() => setOpen({ outing: o, sent: true })}>Mark as sent…</Button>
                <Button look="quiet" onClick={() => setOpen({ outing: o, sent: false })}>
                  Not sent…
                </Button>
              </>
            )}
          </li>
        ))}
      </ul>
      {open && <Settle site={site} {...open} onClose={() => setOpen(undefined)} />}
    </section>
  );
}

function Settle({
  site,
  outing,
  sent,
  onClose,
}: {
  site: string;
  outing: Planned;
  sent: boolean;
  onClose: () => void;
}) {
  const [text, setText] = useState("");
  const { settle } = useOutingDeeds(site);
  const say = useSay();
  const refusal = settle.error instanceof Refusal ? settle.error : undefined;
  return (
    <Sheet
      open
      onClose={onClose}
      title={sent ? "Mark as sent" : "Not sent"}
      actions={
        <>
          <Button onClick={onClose}>Cancel</Button>
          <Button
            look="main"
            disabled={settle.isPending}
            onClick={() =>
              void settle
                .mutateAsync({ id: outing.id, sent, ...(sent ? { url: text.trim() } : { why: text.trim() }) })
                .then(
                  () => {
                    say.done(sent ? "Marked as sent." : "It is with the messages that could not be sent.");
                    onClose();
                  },
                  () => undefined,
                )
            }
          >
            {sent ? "Mark as sent" : "Mark as not sent"}
          </Button>
        </>
      }
    >
      <p className="mb-3 text-sm wrap-anywhere whitespace-pre-wrap">{outing.text}</p>
      <TextField
        label={sent ? "Where it can be read, if anywhere" : "Why, in a few words"}
        placeholder={sent ? "https://" : "the paper jammed"}
        value={text}
        error={refusal?.field(sent ? "url" : "why") ?? refusal?.field("id")}
        onChange={(e) => setText(e.target.value)}
      />
    </Sheet>
  );
}
