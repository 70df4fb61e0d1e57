import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Refusal } from "../../api/client";
import { Button } from "../../ui/Button";
import { shownPlace } from "../../ui/siteClock";
import { useSay } from "../../ui/toast";
import { useTell } from "../logbook/useTell";
import { changedBy, proposalOf, useApply, type Reflow, type Wish } from "../plan/reflow";
import type { Autosave, Post } from "./autosave";
import { saved } from "./deeds";

type Props = { site: string; autosave: Autosave; post: Post };

/** Schedules this one draft into the first slot that is free for it. */
export function NextSlot({ site, autosave, post }: Props) {
  const wish: Wish = { do: "place", posts: [post.id] };
  const proposal = useQuery({ ...proposalOf(site, wish), enabled: post.id !== 0 });
  const apply = useApply(site);
  const queries = useQueryClient();
  const say = useSay();
  const tell = useTell(site);
  const [busy, setBusy] = useState(false);
  const slot = proposal.data?.steps[0]?.to;
  const why = proposal.data?.left[0]?.reason;

  async function go() {
    setBusy(true);
    try {
      const { id } = await saved(autosave);
      // What is scheduled is what the button said; if the text that was just saved has another slot, it says so.
      const shown: Reflow = await queries.fetchQuery({
        ...proposalOf(site, { do: "place", posts: [id] }),
        staleTime: 0,
      });
      const to = shown.steps[0]?.to;
      if (!to) throw new Error(shown.left[0]?.reason ?? "No slot is free for it.");
      if (slot && to.at !== slot.at)
        throw new Error(`Its next slot is ${named(to)} now. Press again to schedule it there.`);
      await apply.mutateAsync({ wish: { do: "place", posts: [id] }, shown, adjusted: [] });
      tell(`Scheduled for ${named(to)}.`);
    } catch (error) {
      const next = changedBy(error)?.steps[0]?.to;
      say.trouble(
        error instanceof Refusal && next
          ? new Error(
              `That slot was just taken. The next one is ${named(next)}: press again to schedule it there.`,
            )
          : error,
      );
    } finally {
      setBusy(false);
    }
  }
  return (
    <div>
      <Button
        look="main"
        className="h-auto! min-h-8 w-full whitespace-normal!"
        disabled={busy}
        onClick={() => void go()}
      >
        {slot ? `Put in the next slot (${named(slot)})` : "Put in the next slot"}
      </Button>
      {!slot && why && post.title !== "" && post.body !== "" && (
        <p className="mt-1 text-xs text-soft">{why}</p>
      )}
    </div>
  );
}

const named = (place: { date: string; minute: number }) => `${shownPlace(place)}`;
