import { useState } from "react";
import { Button } from "../../ui/Button";
import { useSay } from "../../ui/toast";
import { usePlanner } from "../session/session";
import { CopiesSheet } from "./CopiesSheet";
import { EndSheet } from "./EndSheet";
import { bodyOf, useDestinationDeeds, type Destination } from "./destinations";

type Props = { site: string; destination: Destination; onEdit: () => void };

const posts = (n: number) => `${n.toLocaleString("en-GB")} ${n === 1 ? "post" : "posts"}`;

/** How a destination is doing: its mark, in words. */
function stateOf(d: Destination) {
  if (d.ending) return { mark: "◔", word: "Removing its posts", look: "text-away" };
  if (!d.on) return { mark: "‖", word: "Paused", look: "text-away" };
  if (d.signIn) return { mark: "!", word: "Needs you to sign in again", look: "text-madder font-semibold" };
  if (d.held > 0)
    return { mark: "!", word: `${posts(d.held)} for you to decide`, look: "text-madder font-semibold" };
  if (d.failing > 0) return { mark: "!", word: "Failing, tried again", look: "text-madder font-semibold" };
  if (d.waiting > 0) return { mark: "◔", word: "Bringing posts over", look: "text-ink" };
  return { mark: "●", word: "Up to date", look: "text-ink" };
}

export function DestinationRow({ site, destination: d, onEdit }: Props) {
  const { save, sendAll } = useDestinationDeeds(site);
  const [open, setOpen] = useState<"copies" | "end">();
  const editor = usePlanner(site);
  const say = useSay();
  const state = stateOf(d);
  const counts = [
    `${posts(d.there)} there`,
    d.waiting > 0 && `${d.waiting.toLocaleString("en-GB")} to go`,
    d.failing > 0 && `${d.failing.toLocaleString("en-GB")} failed`,
  ].filter(Boolean);
  return (
    <li className="py-2.5">
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1">
        <div className="min-w-56 flex-1">
          <p className="text-base font-semibold">{d.name}</p>
          <p className="text-xs wrap-anywhere text-soft">
            {d.kind === "folder" ? `Folder ${d.folder} · ${d.posts}` : `Site · ${d.home}`}
            {d.since && " · posts from now on"}
          </p>
        </div>
        <div className="w-52 max-md:w-full">
          <p className={`text-sm ${state.look}`} aria-live="polite">
            <span aria-hidden>{state.mark}</span> {state.word}
          </p>
          <p className="text-xs text-soft">{counts.join(" · ")}</p>
        </div>
      </div>
      <div className="mt-1.5 flex flex-wrap gap-1.5">
        <Button onClick={() => setOpen("copies")}>Posts there…</Button>
        {editor && !d.ending && (
          <>
            <Button onClick={onEdit}>Edit…</Button>
            <Button
              disabled={save.isPending}
              onClick={() =>
                save
                  .mutateAsync({ ...bodyOf(d), id: d.id, on: !d.on, version: d.version })
                  .then(() => say.done(d.on ? `${d.name} is paused.` : `${d.name} goes on.`), say.trouble)
              }
            >
              {d.on ? "Pause" : "Resume"}
            </Button>
            <Button
              disabled={sendAll.isPending || !d.on}
              onClick={() =>
                sendAll.mutateAsync(d).then(() => say.done("All posts are being sent again."), say.trouble)
              }
            >
              Send all again
            </Button>
          </>
        )}
        {editor && <Button onClick={() => setOpen("end")}>Delete…</Button>}
      </div>
      {open === "copies" && <CopiesSheet site={site} destination={d} onClose={() => setOpen(undefined)} />}
      {open === "end" && <EndSheet site={site} destination={d} onClose={() => setOpen(undefined)} />}
    </li>
  );
}
