import { useState } from "react";
import { Button } from "../../ui/Button";
import { keysOn, setKeysOn, useAllCommands, type KeyHint } from "../../ui/commands";
import { Sheet } from "../../ui/Sheet";
import { Tick } from "../../ui/Tick";
import { moveKeys } from "../moving/keys";
import { KeyNames } from "./KeyNames";

/** The keys that do something on this screen. */
export default function KeySheet({ onClose }: { onClose: () => void }) {
  const commands: KeyHint[] = [
    ...useAllCommands().flatMap(({ name, group, keys }) => (keys ? [{ name, group, keys }] : [])),
    ...moveKeys,
  ];
  const groups = [...new Set(commands.map((c) => c.group))];
  const [on, setOn] = useState(keysOn);
  return (
    <Sheet
      open
      onClose={onClose}
      title="Keys"
      actions={
        <>
          <span className="mr-auto self-center">
            <Tick
              label="Single-key shortcuts"
              on={on}
              onChange={(next) => {
                setKeysOn(next);
                setOn(next);
              }}
            />
          </span>
          <Button onClick={onClose}>Close</Button>
        </>
      }
    >
      <div className="gap-x-8 sm:columns-2">
        {groups.map((group) => (
          <section key={group} className="mb-4 break-inside-avoid">
            <h3 className="mb-1 text-sm font-semibold text-soft">{group}</h3>
            <ul className="divide-y divide-line border-y border-line">
              {commands
                .filter((c) => c.group === group)
                .map((c) => (
                  <li key={c.name} className="flex min-h-8 items-center justify-between gap-4 text-sm">
                    {c.name}
                    <KeyNames keys={c.keys} />
                  </li>
                ))}
            </ul>
          </section>
        ))}
        <section className="mb-4 break-inside-avoid">
          <h3 className="mb-1 text-sm font-semibold text-soft">Everywhere</h3>
          <ul className="divide-y divide-line border-y border-line">
            <li className="flex min-h-8 items-center justify-between gap-4 text-sm">
              Close what is open <KeyNames keys="Esc" />
            </li>
            <li className="flex min-h-8 items-center justify-between gap-4 text-sm">
              To the next control, and back <KeyNames keys="Tab" />
            </li>
          </ul>
        </section>
      </div>
    </Sheet>
  );
}
