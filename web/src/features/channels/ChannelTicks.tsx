import { Tick } from "../../ui/Tick";

type Props = {
  channels: { id: number; name: string }[];
  chosen: number[];
  onChange: (chosen: number[]) => void;
};

/** Which channels: each with a box, in the order in which they were ticked. */
export function ChannelTicks({ channels, chosen, onChange }: Props) {
  if (channels.length === 0) return <p className="text-sm text-soft">No channel is connected yet.</p>;
  return (
    <div role="group" aria-label="Channels" className="flex flex-wrap gap-x-4 gap-y-1.5 pt-1.5">
      {channels.map((c) => (
        <Tick
          key={c.id}
          label={c.name}
          on={chosen.includes(c.id)}
          onChange={(on) => onChange(on ? [...chosen, c.id] : chosen.filter((id) => id !== c.id))}
        />
      ))}
    </div>
  );
}
