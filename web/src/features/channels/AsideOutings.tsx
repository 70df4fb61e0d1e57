import { useState } from "react";
import { Button } from "../../ui/Button";
import { shownPlace } from "../../ui/siteClock";
import { useSay } from "../../ui/toast";
import { useTell } from "../logbook/useTell";
import { useOutingDeeds, useOutings, type Planned } from "./channels";
import { OutingSheet } from "./OutingSheet";

/** Outings that need an editor: those whose time passed, and those that could not be sent. */
export function AsideOutings({ site, editor }: { site: string; editor: boolean }) {
  const outings = useOutings(site);
  const [open, setOpen] = useState<Planned>();
  const aside = outings.data?.aside ?? [];
  const failed = outings.data?.failed ?? [];
  return (
    <>
      <Needing
        title={aside.length === 1 ? "1 outing missed its time" : `${aside.length} outings missed their time`}
        outings={aside}
        site={site}
        editor={editor}
        onOpen={setOpen}
      />
      <Needing
        title={
          failed.length === 1 ? "1 message could not be sent" : `${failed.length} messages could not be sent`
        }
        outings={failed}
        site={site}
        editor={editor}
        onOpen={setOpen}
      />
      {open && <OutingSheet site={site} outing={open} onClose={() => setOpen(undefined)} />}
    </>
  );
}

type Props = {
  title: string;
  outings: Planned[];
  site: string;
  editor: boolean;
  onOpen: (outing: Planned) => void;
};

function Needing({ title, outings, site, editor, onOpen }: Props) {
  const { drop, retry } = useOutingDeeds(site);
  const say = useSay();
  const tell = useTell(site);
  if (outings.length === 0) return null;
  return (
    <section aria-label={title} className="mb-4 rounded-md border border-madder px-3 py-2">
      <h2 className="text-base font-semibold text-madder">{title}</h2>
      <ul className="divide-y divide-line">
        {outings.map((o) => (
          <li key={o.id} className="flex flex-wrap items-center gap-x-3 gap-y-1 py-1.5 text-sm">
            <span className="w-32 shrink-0 font-semibold">{shownPlace(o.place)}</span>
            <span className="min-w-0 flex-1">
              {o.channel}: {o.postTitle || o.text}
              <span className="block text-xs wrap-anywhere text-soft">{o.why}</span>
            </span>
            {editor && (
              <>
                {o.state === "failed" && (
                  <Button
                    disabled={retry.isPending}
                    onClick={() =>
                      retry
                        .mutateAsync({ id: o.id, version: o.version })
                        .then(() => tell("On its way again."), say.trouble)
                    }
                  >
                    Try again
                  </Button>
                )}
                <Button onClick={() => onOpen(o)}>
                  {o.state === "failed" ? "Change and send…" : "Send at another time…"}
                </Button>
                <Button
                  disabled={drop.isPending}
                  onClick={() =>
                    drop
                      .mutateAsync({ id: o.id, version: o.version })
                      .then(
                        () => tell(o.state === "failed" ? "Let go." : "The outing is dropped."),
                        say.trouble,
                      )
                  }
                >
                  {o.state === "failed" ? "Let go" : "Drop"}
                </Button>
              </>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}
