import { useState } from "react";
import { z } from "zod";
import { Refusal } from "../../api/client";
import { Button } from "../../ui/Button";
import { addDays, clock, hhmm, minutesOf, zoneCity } from "../../ui/civil";
import { DateField } from "../../ui/DateField";
import { date, timeOfDay } from "../../ui/schema";
import { shownDate, siteToday, siteZone } from "../../ui/siteClock";
import { TimeField } from "../../ui/TimeField";
import { useSay } from "../../ui/toast";
import { useFormOf } from "../../ui/useFormOf";
import { useTell } from "../logbook/useTell";
import { useRetime } from "../post/post";
import type { Autosave, Post } from "./autosave";
import { saved } from "./deeds";

type Props = { site: string; autosave: Autosave; post: Post };

const schema = z.object({ date, time: timeOfDay });

/** Schedules the post at a time of one's own choice; it is pinned there. */
export function AtATime({ site, autosave, post }: Props) {
  const [open, setOpen] = useState(false);
  return (
    <div>
      <Button aria-expanded={open} onClick={() => setOpen(!open)}>
        {post.status === "scheduled" ? "Change the time…" : "At a time…"}
      </Button>
      {open && <Form site={site} autosave={autosave} post={post} onDone={() => setOpen(false)} />}
    </div>
  );
}

function Form({ site, autosave, post, onDone }: Props & { onDone: () => void }) {
  const form = useFormOf(schema, {
    date: post.when?.date ?? addDays(siteToday(), 1),
    time: post.when ? hhmm(post.when.minute) : "09:00",
  });
  const retime = useRetime(site);
  const say = useSay();
  const tell = useTell(site);
  const refusal = retime.error instanceof Refusal ? retime.error : undefined;
  async function go(at: z.infer<typeof schema>) {
    try {
      const { id, version } = await saved(autosave);
      const now = await retime.mutateAsync({ id, version, ...at });
      autosave.hear(now);
      tell([`Scheduled for ${shownDate(at.date)}, ${clock(minutesOf(at.time))}.`, ...now.notes].join(" "));
      onDone();
    } catch (error) {
      if (!(error instanceof Refusal) || !error.problem.errors?.length) say.trouble(error);
    }
  }
  return (
    <form
      className="mt-2 space-y-2"
      onSubmit={(e) => {
        e.preventDefault();
        form.submit((at) => void go(at));
      }}
    >
      <DateField
        label="Date"
        value={form.values.date}
        error={form.problem("date")}
        onChange={(d) => form.set({ date: d })}
      />
      <TimeField
        label={`Time in ${zoneCity(siteZone())}`}
        value={form.values.time}
        error={form.problem("time")}
        onChange={(time) => form.set({ time })}
      />
      {refusal?.problem.errors?.map((e) => (
        <p key={e.location} role="alert" className="text-xs text-madder">
          {e.message}
        </p>
      ))}
      <Button type="submit" look="main" disabled={retime.isPending}>
        Schedule
      </Button>
    </form>
  );
}
