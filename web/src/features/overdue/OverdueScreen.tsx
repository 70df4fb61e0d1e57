import { useQuery } from "@tanstack/react-query";
import { CirclePlay } from "lucide-react";
import { useState, type ReactNode } from "react";
import { Link, useParams } from "react-router";
import { z } from "zod";
import { answer, api, type Schemas } from "../../api/client";
import { Button } from "../../ui/Button";
import { addDays, clock, hhmm, minutesOf } from "../../ui/civil";
import { DateField } from "../../ui/DateField";
import { date, timeOfDay } from "../../ui/schema";
import { shownDate, shownPlace } from "../../ui/siteClock";
import { TimeField } from "../../ui/TimeField";
import { useSay } from "../../ui/toast";
import { Trouble } from "../../ui/Trouble";
import { useFormOf } from "../../ui/useFormOf";
import { Waiting } from "../../ui/Waiting";
import type { Entry } from "../plan/almanac";
import { useStatus } from "../plan/status";
import { useDeed, useRetime } from "../post/post";
import { useTell } from "../logbook/useTell";
import { usePlanner } from "../session/session";
import { catchUps, useSaveSettings, useSettings } from "../settings/settings";

type Overdue = Schemas["Overdue"];
type Line = Overdue["waiting"][number];

function useOverdue(site: string) {
  return useQuery({
    queryKey: ["plan", site, "overdue"],
    queryFn: () => answer(api.GET("/api/v1/sites/{site}/overdue", { params: { path: { site } } })),
  });
}

/** What was missed while nothing could come out, what becomes of it, and what became of it. */
export default function OverdueScreen() {
  const { site = "" } = useParams();
  const overdue = useOverdue(site);
  const today = useStatus(site).data?.now.date;
  if (overdue.error && !overdue.data)
    return <Trouble error={overdue.error} retry={() => void overdue.refetch()} />;
  if (!overdue.data || !today) return <Waiting what="what was missed" />;
  const { paused, catchUp, waiting, held, done } = overdue.data;
  const choice = catchUps.find((c) => c.value === catchUp)?.name ?? catchUp;
  const nothing = waiting.length === 0 && held.length === 0 && done.length === 0;
  return (
    <main className="mx-auto w-full max-w-4xl px-5 pt-4 pb-10">
      <h1 className="mb-1 font-title text-2xl">Overdue</h1>
      <p className="mb-4 text-sm text-soft">
        Posts whose time passed while nothing could publish them. This site’s choice for them is “{choice}”;{" "}
        <Link to={`/${site}/settings`} className="underline underline-offset-2">
          change it
        </Link>
        .
      </p>
      {nothing && !paused && (
        <p className="py-10 text-center text-soft">Nothing was missed within the last week.</p>
      )}
      {(paused || waiting.length > 0) && (
        <Part
          title={paused ? "When you resume the site" : "About to be handled"}
          hint={
            waiting.length === 0
              ? "Nothing is overdue yet. What comes due while the site is paused is listed here, with what would become of it."
              : "What will happen to each, unless you change it here first."
          }
        >
          {waiting.map((l) => (
            <Row
              key={l.id}
              site={site}
              post={l}
              today={today}
              words={wordsFor(l)}
              holds={l.does !== "hold"}
            />
          ))}
        </Part>
      )}
      {paused && <GoOn site={site} count={waiting.filter((l) => l.does !== "hold").length} />}
      {held.length > 0 && (
        <Part title="On hold" hint="They come out only when you publish them.">
          {held.map((e) => (
            <Row key={e.id} site={site} post={e} today={today} words="Waits for you" holds={false} />
          ))}
        </Part>
      )}
      {done.length > 0 && (
        <Part title="Caught up with, within the last week">
          {done.map((l) => (
            <li key={l.id} className="px-3 py-2 text-sm">
              {l.title && (
                <Link to={`/${site}?post=${l.postId}`} className="font-medium hover:underline">
                  {l.title}
                </Link>
              )}
              <span className="block text-xs text-soft">
                {shownPlace(l)}: {l.reason}
              </span>
            </li>
          ))}
        </Part>
      )}
    </main>
  );
}

function wordsFor(l: Line): string {
  if (l.does === "publish") return "Comes out at once";
  if (l.does === "hold" || !l.to) return "Goes on hold";
  return `Comes out on ${shownPlace(l.to)}`;
}

function Part({ title, hint, children }: { title: string; hint?: string; children: ReactNode }) {
  return (
    <section aria-label={title} className="mb-5">
      <h2 className="text-base font-semibold">{title}</h2>
      {hint && <p className="mb-1 text-xs text-soft">{hint}</p>}
      <ul className="divide-y divide-line rounded-md border border-line bg-sheet empty:hidden">{children}</ul>
    </section>
  );
}

const schema = z.object({ date, time: timeOfDay });

type RowProps = { site: string; post: Entry; today: string; words: string; holds: boolean };

/** One missed post: what becomes of it, and what else can. */
function Row({ site, post, today, words, holds }: RowProps) {
  const planner = usePlanner(site);
  const publish = useDeed(site, "publish");
  const hold = useDeed(site, "hold");
  const shelve = useDeed(site, "shelve");
  const retime = useRetime(site);
  const say = useSay();
  const tell = useTell(site);
  const [timing, setTiming] = useState(false);
  const form = useFormOf(schema, { date: addDays(today, 1), time: hhmm(post.minute) });
  const seen = { id: post.id, version: post.version };
  const busy = publish.isPending || hold.isPending || shelve.isPending || retime.isPending;
  // By promise: the line is gone by the time the answer is here.
  const done = (work: Promise<unknown>, text: string) => void work.then(() => tell(text), say.trouble);
  return (
    <li className="px-3 py-2">
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1">
        <div className="min-w-0 flex-1 basis-60">
          <Link
            to={`/${site}?post=${post.id}`}
            className="block truncate text-sm font-medium hover:underline"
          >
            {post.title}
          </Link>
          <p className="text-xs text-madder">was due on {shownPlace(post)}</p>
        </div>
        <p className="text-sm">{words}</p>
        {planner && (
          <div className="flex flex-wrap gap-1">
            <Button
              look="quiet"
              disabled={busy}
              onClick={() => done(publish.mutateAsync(seen), `“${post.title}” is out.`)}
            >
              Publish now
            </Button>
            {holds && (
              <Button
                look="quiet"
                disabled={busy}
                onClick={() => done(hold.mutateAsync(seen), `“${post.title}” is on hold.`)}
              >
                Hold
              </Button>
            )}
            <Button
              look="quiet"
              disabled={busy}
              onClick={() => done(shelve.mutateAsync(seen), `“${post.title}” is back on the shelf.`)}
            >
              Back to the shelf
            </Button>
            <Button look="quiet" aria-expanded={timing} onClick={() => setTiming(!timing)}>
              Another time…
            </Button>
          </div>
        )}
      </div>
      {timing && (
        <div className="mt-2 flex items-start gap-2">
          <DateField
            label="Date"
            value={form.values.date}
            error={form.problem("date")}
            onChange={(date) => form.set({ date })}
          />
          <TimeField
            label="Time"
            value={form.values.time}
            error={form.problem("time")}
            onChange={(time) => form.set({ time })}
          />
          <Button
            disabled={busy}
            onClick={() =>
              form.submit(({ date, time }) =>
                done(
                  retime.mutateAsync({ ...seen, date, time }),
                  `“${post.title}” comes out on ${shownDate(date)}, ${clock(minutesOf(time))}.`,
                ),
              )
            }
          >
            Schedule
          </Button>
        </div>
      )}
    </li>
  );
}

/** Lets a paused site go on, once its overdue posts have been looked through. */
function GoOn({ site, count }: { site: string; count: number }) {
  const settings = useSettings(site);
  const save = useSaveSettings(site);
  const say = useSay();
  if (!usePlanner(site) || !settings.data) return null;
  const saved = settings.data;
  return (
    <div className="mb-6 flex items-center gap-3">
      <Button
        look="main"
        icon={<CirclePlay size={14} />}
        disabled={save.isPending}
        onClick={() =>
          void save
            .mutateAsync({ ...saved, paused: false })
            .then(() => say.done("The site is running again."), say.trouble)
        }
      >
        Resume the site
      </Button>
      <span className="text-sm text-soft">
        {count === 0
          ? "Nothing comes out straight away."
          : `The ${count === 1 ? "post" : `${count} posts`} above come out as said.`}
      </span>
    </div>
  );
}
