import { useState } from "react";
import { Button } from "../../ui/Button";
import { DateField } from "../../ui/DateField";
import { inputLook } from "../../ui/Field";
import { TimeField } from "../../ui/TimeField";
import type { Channel } from "../channels/channels";
import { instantOf, typedOf } from "../channels/moment";
import type { Change, Settings, Stop } from "./tours";

type Props = {
  stop: Stop;
  channels: Channel[];
  moved: Settings["moved"];
  own: Settings["own"];
  onChange: Change;
  onClose: () => void;
};

/** One stop, with its time and its messages to change. */
export function EditStop({ stop, channels, onChange, onClose, ...props }: Props) {
  const [when, setWhen] = useState(stop.at ? typedOf(stop.at.at) : { date: "", time: "" });
  const moved = (props.moved ?? []).filter((m) => m.stop !== stop.n);
  const own = props.own ?? [];
  const rest = (channel: number) => own.filter((o) => o.stop !== stop.n || o.channelId !== channel);
  const retime = (to: typeof when) => {
    setWhen(to);
    const at = instantOf(to);
    if (at) onChange({ moved: [...moved, { stop: stop.n, at }] });
  };
  const isOwn = stop.moved || own.some((o) => o.stop === stop.n);
  return (
    <tr className="border-b border-line bg-ground align-top @max-2xl:block">
      <td className="py-2 pl-1 tabular-nums">{stop.n}</td>
      <td colSpan={channels.length + 2} className="py-2 pr-2 @max-2xl:block">
        <div className="mb-2 flex flex-wrap items-end gap-2">
          <DateField
            label={`Date of stop ${stop.n}`}
            value={when.date}
            onChange={(date) => retime({ ...when, date })}
          />
          <TimeField label="Time" value={when.time} onChange={(time) => retime({ ...when, time })} />
          <span className="ml-auto" />
          {isOwn && (
            <Button
              onClick={() => {
                onChange({ moved, own: own.filter((o) => o.stop !== stop.n) });
                onClose();
              }}
            >
              Undo my changes
            </Button>
          )}
          <Button onClick={onClose}>Done</Button>
        </div>
        <div className="grid gap-2 @2xl:grid-cols-2">
          {channels.map((c) => {
            const m = stop.messages.find((one) => one.channelId === c.id && one.state === "");
            if (!m) return null;
            const text = own.find((o) => o.stop === stop.n && o.channelId === c.id)?.text ?? m.written;
            return (
              <label key={c.id} className="block text-sm text-soft">
                {c.name}
                <textarea
                  rows={4}
                  value={text}
                  onChange={(e) =>
                    onChange({
                      own: [...rest(c.id), { stop: stop.n, channelId: c.id, text: e.target.value }],
                    })
                  }
                  className={`${inputLook} mt-1 h-auto! resize-y py-1 text-ink`}
                />
                <span
                  role={m.problem ? "alert" : undefined}
                  className={`text-xs ${m.problem ? "text-madder" : "text-faint"}`}
                >
                  {m.problem || (m.limit > 0 ? `${m.graphemes} of ${m.limit}` : `${m.graphemes} characters`)}
                </span>
              </label>
            );
          })}
        </div>
      </td>
    </tr>
  );
}
