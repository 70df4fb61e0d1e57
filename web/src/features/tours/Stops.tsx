import { ExternalLink, Pencil } from "lucide-react";
import { memo, useState } from "react";
import { IconButton } from "../../ui/Button";
import { shownPlace } from "../../ui/siteClock";
import type { Channel } from "../channels/channels";
import { EditStop } from "./EditStop";
import type { Change, Message, Settings, Stop } from "./tours";

type Props = {
  stops: Stop[];
  channels: Channel[];
  moved: Settings["moved"];
  own: Settings["own"];
  /** How it is changed; nothing can be without it. */
  onChange: Change | undefined;
};

/** Every stop with what it says on each channel. Counts over a channel's limit are red. */
export const Stops = memo(function Stops({ stops, channels, moved, own, onChange }: Props) {
  const [open, setOpen] = useState<number>();
  const shown = channels.filter((c) => stops.some((s) => s.messages.some((m) => m.channelId === c.id)));
  return (
    <div className="@container">
      <table className="w-full table-fixed border-collapse text-sm @max-2xl:block">
        <thead className="@max-2xl:sr-only">
          <tr className="border-b border-line text-left text-xs text-soft">
            <th className="w-10 py-1 font-normal">Stop</th>
            <th className="w-36 py-1 pr-3 font-normal">When</th>
            {shown.map((c) => (
              <th key={c.id} className="py-1 pr-3 font-normal">
                {c.name}
              </th>
            ))}
            <th className="w-9 py-1 font-normal">
              <span className="sr-only">Change</span>
            </th>
          </tr>
        </thead>
        <tbody className="@max-2xl:block">
          {stops.map((stop) =>
            open === stop.n && onChange ? (
              <EditStop
                key={stop.n}
                stop={stop}
                channels={shown}
                moved={moved}
                own={own}
                onChange={onChange}
                onClose={() => setOpen(undefined)}
              />
            ) : (
              <tr key={stop.n} className="border-b border-line align-top @max-2xl:block @max-2xl:py-1.5">
                <td className="py-1.5 text-soft tabular-nums @max-2xl:float-left @max-2xl:pr-2">{stop.n}</td>
                <td className="py-1.5 pr-3 @max-2xl:block">
                  {stop.at ? shownPlace(stop.at) : <span className="text-madder">No room</span>}
                  {stop.moved && <span className="block text-xs text-faint">moved</span>}
                </td>
                {shown.map((c) => (
                  <td key={c.id} className="py-1.5 pr-3 @max-2xl:block">
                    <span className="hidden text-xs text-soft @max-2xl:block">{c.name}</span>
                    <Said message={stop.messages.find((m) => m.channelId === c.id)} name={c.name} />
                  </td>
                ))}
                <td className="py-1">
                  {onChange && stop.messages.some((m) => m.state === "") && (
                    <IconButton label={`Change stop ${stop.n}`} onClick={() => setOpen(stop.n)}>
                      <Pencil size={14} />
                    </IconButton>
                  )}
                </td>
              </tr>
            ),
          )}
        </tbody>
      </table>
    </div>
  );
});

const words: Record<string, string> = {
  planned: "Planned",
  waiting: "On its way",
  sent: "Sent",
  failed: "Failed",
  skipped: "Left out",
  "set aside": "Set aside",
};

/** What a stop says on one channel, with its count or with what became of it. */
function Said({ message, name }: { message: Message | undefined; name: string }) {
  if (!message) return <span className="text-faint">Not on {name}</span>;
  const trouble = message.problem || message.error;
  return (
    <>
      <span className="line-clamp-3 break-words" title={message.text}>
        {message.text || message.written}
      </span>
      <span className={`block text-xs ${trouble ? "text-madder" : "text-faint"}`}>
        {message.state ? (
          <Became message={message} />
        ) : message.missed ? (
          "Missed while the tour was paused"
        ) : (
          <>
            <span className={message.over > 0 ? "font-semibold" : ""}>
              {message.over > 0 && message.limit > 0
                ? `${message.limit + message.over} of ${message.limit}: ${message.over} too many`
                : message.limit > 0
                  ? `${message.graphemes} of ${message.limit}`
                  : `${message.graphemes} characters`}
            </span>
            {message.own && ", changed by hand"}
            {message.fit && `, ${message.fit}`}
          </>
        )}
        {trouble && message.over === 0 && <span className="block">{trouble}</span>}
      </span>
    </>
  );
}

function Became({ message }: { message: Message }) {
  const clicks = message.clicks === 1 ? "1 click" : `${message.clicks} clicks`;
  return (
    <>
      {message.state === "sent" && <span aria-hidden>✓ </span>}
      {message.url ? (
        <a href={message.url} target="_blank" rel="noreferrer" className="underline underline-offset-2">
          {words[message.state]} <ExternalLink size={11} className="inline" aria-label="opens in a new tab" />
        </a>
      ) : (
        words[message.state]
      )}
      {message.state === "sent" && message.clicks > 0 && `, ${clicks}`}
    </>
  );
}
