import { useState } from "react";
import { Button } from "../../ui/Button";
import { zoneCity } from "../../ui/civil";
import { shownPlace } from "../../ui/siteClock";
import { Sheet } from "../../ui/Sheet";
import { TroubleHere } from "../../ui/Trouble";
import { useZoneChange, type Settings } from "./settings";

type Keep = NonNullable<Settings["planned"]>;

type Props = {
  site: string;
  from: string;
  to: string;
  busy: boolean;
  onClose: () => void;
  onKeep: (planned: Keep) => void;
};

/** Asks what planned posts keep in another zone, and shows both: their moments, and their times of day. */
export function ZoneChange({ site, from, to, busy, onClose, onKeep }: Props) {
  const change = useZoneChange(site, to);
  const [keep, setKeep] = useState<Keep>("clock");
  const moves = change.data ?? [];
  const choices: { keep: Keep; name: string; hint: string }[] = [
    {
      keep: "clock",
      name: "Their time of day",
      hint: `What is planned for 09:00 comes out at 09:00 in ${zoneCity(to)}.`,
    },
    {
      keep: "instant",
      name: "Their moment",
      hint: `They come out when they would have; clocks in ${zoneCity(to)} show another time then.`,
    },
  ];
  return (
    <Sheet
      open
      onClose={onClose}
      title={`From ${zoneCity(from)} to ${zoneCity(to)} time`}
      actions={
        <>
          <Button onClick={onClose}>Not yet</Button>
          <Button look="main" disabled={busy || change.isPending} onClick={() => onKeep(keep)}>
            {keep === "clock" ? "Keep their times of day" : "Keep the same moment"}
          </Button>
        </>
      }
    >
      {change.error && <TroubleHere error={change.error} retry={() => void change.refetch()} />}
      <fieldset className="mb-3">
        <legend className="mb-1 text-sm font-semibold">
          {moves.length === 1 ? "One post is" : `${moves.length} posts are`} planned. What do they keep?
        </legend>
        {choices.map((c) => (
          <label key={c.keep} className="flex gap-2 py-1 text-sm">
            <input type="radio" name="keep" checked={keep === c.keep} onChange={() => setKeep(c.keep)} />
            <span>
              {c.name}
              <span className="block text-xs text-soft">{c.hint}</span>
            </span>
          </label>
        ))}
      </fieldset>
      <div className="max-h-96 overflow-y-auto">
        <table className="w-full text-sm">
          <thead className="sticky top-0 bg-sheet text-left text-xs text-soft">
            <tr>
              <th className="py-1 font-normal">Post</th>
              <th className="py-1 font-normal">Now, {zoneCity(from)}</th>
              <th className="py-1 font-normal">Time of day kept, {zoneCity(to)}</th>
              <th className="py-1 font-normal">Moment kept, {zoneCity(to)}</th>
            </tr>
          </thead>
          <tbody className="divide-y divide-line">
            {moves.map((m) => (
              <tr key={m.id}>
                <td className="max-w-44 truncate py-1 pr-3">{m.title}</td>
                <td className="py-1 pr-2 whitespace-nowrap text-soft">{shownPlace(m.now)}</td>
                <td
                  className={`py-1 pr-2 whitespace-nowrap ${keep === "clock" ? "font-semibold" : "text-soft"}`}
                >
                  {shownPlace(m.clock)}
                  {m.past && (
                    <span className="block text-xs font-normal text-away">
                      that is past: keeps its moment
                    </span>
                  )}
                </td>
                <td
                  className={`py-1 whitespace-nowrap ${keep === "instant" ? "font-semibold" : "text-soft"}`}
                >
                  {shownPlace(m.instant)}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </Sheet>
  );
}
