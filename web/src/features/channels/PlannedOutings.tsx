import { useState } from "react";
import { AddButton } from "../../ui/AddButton";
import { Button } from "../../ui/Button";
import { shownPlace } from "../../ui/siteClock";
import { useSay } from "../../ui/toast";
import { useTell } from "../logbook/useTell";
import { useOutingDeeds, useOutings, type Planned } from "./channels";
import { OutingSheet } from "./OutingSheet";

const shown = 30;

const origins: Record<Planned["origin"], string> = {
  hand: "by hand",
  rule: "of a rule",
  publication: "with its post",
  tour: "of a tour",
};

/** The outings that wait for their time: single messages, and what was planned with a post or a turn. */
export function PlannedOutings({ site, editor }: { site: string; editor: boolean }) {
  const outings = useOutings(site);
  const { drop } = useOutingDeeds(site);
  const [open, setOpen] = useState<Planned | "new">();
  const say = useSay();
  const tell = useTell(site);
  const all = outings.data?.outings ?? [];
  return (
    <>
      {all.length === 0 && <p className="mb-2 text-sm text-soft">Nothing is planned one by one.</p>}
      <ul className="mb-2 divide-y divide-line border-y border-line empty:hidden">
        {all.slice(0, shown).map((o) => (
          <li key={o.id} className="flex flex-wrap items-center gap-x-3 gap-y-1 py-1 text-sm">
            <span className="w-32 shrink-0 font-semibold">{shownPlace(o.place)}</span>
            <span className="min-w-0 flex-1 truncate">
              {o.channel}: {o.postTitle || o.text}{" "}
              <span className="text-soft">· {o.rule ? `of “${o.rule}”` : origins[o.origin]}</span>
            </span>
            {editor && (
              <>
                <Button look="quiet" onClick={() => setOpen(o)}>
                  Change…
                </Button>
                <Button
                  look="quiet"
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
      {all.length > shown && <p className="mb-2 text-xs text-soft">and {all.length - shown} later ones</p>}
      {editor && <AddButton onAdd={() => setOpen("new")}>Share a message…</AddButton>}
      {open && (
        <OutingSheet
          site={site}
          {...(open === "new" ? {} : { outing: open })}
          onClose={() => setOpen(undefined)}
        />
      )}
    </>
  );
}
