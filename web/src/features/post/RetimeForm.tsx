import type { FormEvent } from "react";
import { z } from "zod";
import { Refusal } from "../../api/client";
import { Button } from "../../ui/Button";
import { clock, hhmm, minutesOf, zoneCity } from "../../ui/civil";
import { DateField } from "../../ui/DateField";
import { date as aDate, timeOfDay } from "../../ui/schema";
import { shownDate } from "../../ui/siteClock";
import { TimeField } from "../../ui/TimeField";
import { useSay } from "../../ui/toast";
import { useFormOf } from "../../ui/useFormOf";
import { useTell } from "../logbook/useTell";
import { useRetime, type Post } from "./post";

const schema = z.object({ date: aDate, time: timeOfDay });

type Props = { site: string; post: Post; start: { date: string; minute: number }; zone: string };

/** A time by hand, by the site's clocks. The post is pinned there. */
export function RetimeForm({ site, post, start, zone }: Props) {
  const retime = useRetime(site);
  const say = useSay();
  const tell = useTell(site);
  const form = useFormOf(schema, { date: start.date, time: hhmm(start.minute) });
  const wrong = retime.error instanceof Refusal ? retime.error : undefined;

  function submit(event: FormEvent) {
    event.preventDefault();
    form.submit(pin);
  }

  function pin({ date, time }: z.infer<typeof schema>) {
    // By promise: the form is made anew for the post's new time, which may be here first.
    retime
      .mutateAsync({ id: post.id, version: post.version, date, time })
      .then((now) =>
        tell([`Scheduled for ${shownDate(date)}, ${clock(minutesOf(time))}.`, ...now.notes].join(" ")),
      )
      .catch((error: unknown) => {
        if (!(error instanceof Refusal) || !error.problem.errors?.length) say.trouble(error);
      });
  }

  return (
    <form onSubmit={submit} className="border-t border-line pt-3">
      <h3 className="mb-1.5 text-sm font-semibold">
        {post.status === "scheduled" ? "Change the time" : "Schedule at a time"}{" "}
        <span className="font-normal text-soft">({zoneCity(zone)} time)</span>
      </h3>
      <div className="grid grid-cols-[1fr_auto_auto] gap-2">
        <div className="col-span-3">
          <DateField
            label="Date"
            hideLabel
            value={form.values.date}
            error={form.problem("date")}
            onChange={(date) => form.set({ date })}
          />
        </div>
        <TimeField
          label="Time"
          hideLabel
          value={form.values.time}
          error={form.problem("time")}
          onChange={(time) => form.set({ time })}
        />
        <Button type="submit" disabled={retime.isPending}>
          Schedule
        </Button>
      </div>
      {wrong?.problem.errors?.map((e) => (
        <p key={e.location} role="alert" className="mt-1 text-xs text-madder">
          {e.message}
        </p>
      ))}
    </form>
  );
}
