import { ExternalLink } from "lucide-react";
import { useState } from "react";
import { Button } from "../../ui/Button";
import { useSay } from "../../ui/toast";
import { takes, useChannelDeeds, type Channel, type Channels } from "./channels";
import { ChannelSheet } from "./ChannelSheet";
import { CopyChannel } from "./CopyChannel";
import { DeleteChannel } from "./DeleteChannel";
import { SubscribersSheet } from "./SubscribersSheet";

const states: Record<Channel["state"], { word: string; mark: string; look: string }> = {
  well: { word: "Working", mark: "●", look: "text-ink" },
  "sign in": { word: "Needs sign-in", mark: "!", look: "text-madder font-semibold" },
  resting: { word: "Quiet hours", mark: "◐", look: "text-soft" },
  limited: { word: "Limited", mark: "◔", look: "text-away" },
  paused: { word: "Paused", mark: "‖", look: "text-away" },
};

type Props = { site: string; channel: Channel; blogs: Channels["blogs"]; editor: boolean };

/** One channel: whose account it is, how it stands, and what can be done about it. */
export function ChannelRow({ site, channel: c, blogs, editor }: Props) {
  const deeds = useChannelDeeds(site);
  const say = useSay();
  const [open, setOpen] = useState<"edit" | "copy" | "delete" | "subscribers">();
  const close = () => setOpen(undefined);
  const state = states[c.state];
  return (
    <li className="flex flex-wrap items-center gap-x-4 gap-y-1.5 py-2.5">
      <div className="min-w-56 flex-1">
        <p className="text-sm">
          <span className="text-base font-semibold">{c.name}</span>{" "}
          {c.handle && c.handle !== c.name && <span className="text-soft">@{c.handle}</span>}{" "}
          {c.name !== c.network && (
            <span className="text-soft">
              {c.outside || c.kind === "micropub" || c.kind === "mail"
                ? c.network.toLowerCase()
                : `on ${c.network}`}
            </span>
          )}
        </p>
        <p className="text-xs wrap-anywhere text-soft">
          {c.outside ? (c.address ?? "done by people, on the list here") : takes(c)}
        </p>
      </div>
      <div className="w-64 max-md:w-full">
        <p className={`text-sm ${state.look}`}>
          <span aria-hidden>{state.mark}</span> {state.word}
        </p>
        {c.stateWhy && <p className="text-xs text-soft">{c.stateWhy}</p>}
        {c.state === "well" && (
          <p className="text-xs text-soft">
            {c.apart % 60 === 0 ? `${c.apart / 60} h` : `${c.apart} min`} apart
            {c.aDay > 0 && `, at most ${c.aDay} a day`}
          </p>
        )}
      </div>
      <div className="flex flex-wrap items-center gap-1.5">
        {c.wall && (
          <a
            href={c.wall}
            target="_blank"
            rel="noreferrer"
            className="inline-flex items-center gap-1 px-1 text-sm underline underline-offset-2"
          >
            See it <span className="sr-only">on {c.name}</span>
            <ExternalLink size={12} aria-label="opens in a new tab" />
          </a>
        )}
        {editor && (
          <>
            {c.state === "sign in" && (
              <Button
                look="main"
                disabled={deeds.connect.isPending}
                onClick={() => deeds.connect.mutateAsync({ channelId: c.id }).catch(say.trouble)}
              >
                Sign in again
              </Button>
            )}
            <Button
              disabled={deeds.pause.isPending}
              onClick={() =>
                deeds.pause
                  .mutateAsync({ id: c.id, paused: c.state !== "paused", version: c.version })
                  .then(
                    (now) => say.done(now.state === "paused" ? `${c.name} is paused.` : `${c.name} goes on.`),
                    say.trouble,
                  )
              }
            >
              {c.state === "paused" ? "Resume" : "Pause"}
            </Button>
            {c.kind === "mail" && <Button onClick={() => setOpen("subscribers")}>Subscribers…</Button>}
            <Button onClick={() => setOpen("edit")}>Edit…</Button>
            {blogs.length > 0 && <Button onClick={() => setOpen("copy")}>Copy…</Button>}
            <Button onClick={() => setOpen("delete")}>Delete…</Button>
          </>
        )}
      </div>
      {open === "subscribers" && <SubscribersSheet site={site} channel={c} onClose={close} />}
      {open === "edit" && <ChannelSheet site={site} channel={c} onClose={close} />}
      {open === "copy" && <CopyChannel site={site} channel={c} blogs={blogs} onClose={close} />}
      {open === "delete" && <DeleteChannel site={site} channel={c} onClose={close} />}
    </li>
  );
}
