import { useState } from "react";
import { Button } from "../../ui/Button";
import { shownPlace } from "../../ui/siteClock";
import { useSay } from "../../ui/toast";
import { useTell } from "../logbook/useTell";
import { useOutingDeeds, useOutings, type Planned } from "./channels";
import { OutingSheet } from "./OutingSheet";

/** Outings whose time passed while nothing could send them, for an editor to deal with. */
export function AsideOutings({ site, editor }: { site: string; editor: boolean }) {
  const outings = useOutings(site);
  const { drop } = useOutingDeeds(site);
  const [open, setOpen] = useState<Planned>();
  const say = useSay();
  const tell = useTell(site);
  const aside = outings.data?.aside ?? [];
  if (aside.length === 0) return null;
  return (
    <section aria-label="Missed" className="mb-4 rounded-md border border-madder px-3 py-2">
      <h2 className="text-base font-semibold text-madder">
        {aside.length === 1 ? "1 outing missed its time" : `${aside.length} outings missed their time`}
      </h2>
      <ul className="divide-y divide-line">
        {aside.map((o) => (
          <li key={o.id} className="flex flex-wrap items-center gap-x-3 gap-y-1 py-1.5 text-sm">
            <span className="w-32 shrink-0 font-semibold">{shownPlace(o.place)}</span>
            <span className="min-w-0 flex-1">
              {o.channel}: {o.postTitle || o.text} <span className="block text-xs text-soft">{o.why}</span>
            </span>
            {editor && (
              <>
                <Button onClick={() => setOpen(o)}>Send at another time…</Button>
                <Button
                  disabled={drop.isPending}
                  onClick={() =>
                    drop
                      .mutateAsync({ id: o.id, version: o.version })
                      .then(() => tell("The outing is dropped."), say.trouble)
                  }
                >
                  Drop
                </Button>
              </>
            )}
          </li>
        ))}
      </ul>
      {open && <OutingSheet site={site} outing={open} onClose={() => setOpen(undefined)} />}
    </section>
  );
}
