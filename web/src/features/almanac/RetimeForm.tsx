import { useState, type FormEvent } from "react";
import { Refusal } from "../../api/client";
import { Button } from "../../ui/Button";
import { hhmm, shortDate, zoneCity } from "../../ui/civil";
import { TextField } from "../../ui/Field";
import { TimeField } from "../../ui/TimeField";
import { useSay } from "../../ui/toast";
import { useTell } from "../logbook/useTell";
import { useRetime, type Post } from "./almanac";

type Props = { site: string; post: Post; start: { date: string; minute: number }; zone: string };

/** A time by hand, by the site's clocks. The post is pinned there. */
export function RetimeForm({ site, post, start, zone }: Props) {
  const retime = useRetime(site);
  const say = useSay();
  const tell = useTell(site);
  const [date, setDate] = useState(start.date);
  const [time, setTime] = useState(hhmm(start.minute));
  const wrong = retime.error instanceof Refusal ? retime.error : undefined;

  function submit(event: FormEvent) {
    event.preventDefault();
    // By promise: the form is made anew for the post's next version, which may be here first.
    retime
      .mutateAsync({ id: post.id, version: post.version, date, time })
      .then((now) => tell([`Pinned to ${shortDate(date)}, ${time}.`, ...now.notes].join(" ")))
      .catch((error: unknown) => {
        if (!(error instanceof Refusal) || !error.problem.errors?.length) say.trouble(error);
      });
  }

  return (
    <form onSubmit={submit} className="border-t border-line pt-3">
      <h3 className="mb-1.5 text-sm font-semibold">
        {post.status === "scheduled" ? "Retime" : "Give it a time by hand"}{" "}
        <span className="font-normal text-soft">({zoneCity(zone)} time)</span>
      </h3>
      <div className="flex gap-2">
        <TextField
          label="Date"
          hideLabel
          type="date"
          required
          value={date}
          onChange={(e) => setDate(e.target.value)}
        />
        <TimeField label="Time" hideLabel value={time} onChange={setTime} />
        <Button type="submit" disabled={retime.isPending}>
          Pin
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
