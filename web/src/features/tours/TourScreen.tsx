import { useCallback, useState } from "react";
import { Link, useParams } from "react-router";
import { Button } from "../../ui/Button";
import { inputLook } from "../../ui/Field";
import { SaveButton } from "../../ui/SaveButton";
import { useSay } from "../../ui/toast";
import { Trouble, Warning } from "../../ui/Trouble";
import { Unsaved } from "../../ui/Unsaved";
import { Waiting } from "../../ui/Waiting";
import { useChannels, type Channel } from "../channels/channels";
import { useTell } from "../logbook/useTell";
import { usePlanner } from "../session/session";
import { Acts } from "./Acts";
import { Lines } from "./Lines";
import { SayFields } from "./SayFields";
import { ShapeFields } from "./ShapeFields";
import { Stops } from "./Stops";
import { TourState } from "./TourState";
import {
  counted,
  progress,
  useLook,
  useTour,
  useTourDeeds,
  type Change,
  type Settings,
  type Tour,
} from "./tours";
import { YearTape } from "./YearTape";

/** One tour: its lines, its dates, and every message it sends. */
export default function TourScreen() {
  const { site = "", id = "" } = useParams();
  const tour = useTour(site, Number(id));
  const channels = useChannels(site);
  if (tour.error) return <Trouble error={tour.error} retry={() => void tour.refetch()} />;
  if (tour.isPending || channels.isPending) return <Waiting what="the tour" />;
  return (
    <TourForm key={tour.data.id} site={site} tour={tour.data} channels={channels.data?.channels ?? []} />
  );
}

function TourForm({ site, tour, channels }: { site: string; tour: Tour; channels: Channel[] }) {
  const planner = usePlanner(site);
  const deeds = useTourDeeds(site);
  const say = useSay();
  const tell = useTell(site);
  const [changed, setChanged] = useState<Settings>();
  const editable = planner && (tour.state === "draft" || tour.state === "paused");
  const settings = (editable && changed) || tour.settings;
  const look = useLook(site, tour, settings, editable && changed !== undefined);
  const shown = (editable && changed && look.data) || tour;
  const saved = tour.settings;
  const set = useCallback<Change>(
    (change) =>
      setChanged((before = saved) => ({
        ...before,
        ...(typeof change === "function" ? change(before) : change),
      })),
    [saved],
  );
  const problems = look.error ? undefined : shown.problems;
  const problem = useCallback((path: string) => problems?.find((p) => p.field === path)?.message, [problems]);
  const move = useCallback(
    (stop: number, at: string) =>
      set((s) => ({ moved: [...(s.moved ?? []).filter((m) => m.stop !== stop), { stop, at }] })),
    [set],
  );
  const troubled = shown.problems.filter((p) => p.stop > 0);

  const save = () =>
    deeds.save.mutateAsync({ id: tour.id, version: tour.version, settings }).then((kept) => {
      // What was changed while it was being saved is still to be saved.
      setChanged((now) => (now === settings ? undefined : now));
      return kept;
    });
  const launch = async () => {
    try {
      const kept = changed ? await save() : tour;
      const launched = await deeds.launch.mutateAsync({ id: kept.id, version: kept.version });
      tell(`Tour launched: ${counted(launched.waiting, "message")} planned.`);
    } catch (error) {
      say.trouble(error);
    }
  };

  return (
    <main className="mx-auto w-full max-w-6xl px-5 pt-4 pb-12">
      <Unsaved when={changed !== undefined} what="the tour" />
      <p className="text-sm">
        <Link to={`/${site}/tours`} className="text-soft underline-offset-2 hover:underline">
          Tours
        </Link>
      </p>
      <div className="mb-1 flex flex-wrap items-center gap-x-3 gap-y-2">
        <h1 className="min-w-0 font-title text-2xl">{tour.name}</h1>
        <TourState state={tour.state} />
        <span className="ml-auto" />
        {planner && (
          <Acts site={site} tour={tour} changed={changed !== undefined}>
            {editable && (
              <SaveButton
                name="Save"
                quiet
                disabled={!changed || deeds.save.isPending}
                onSave={() => void save().then(() => say.done("Tour saved."), say.trouble)}
              />
            )}
            {tour.state === "draft" && (
              <Button
                look="main"
                disabled={shown.problems.length > 0 || deeds.launch.isPending || look.isFetching}
                onClick={() => void launch()}
              >
                Launch the tour
              </Button>
            )}
          </Acts>
        )}
      </div>
      <p className="mb-3 text-sm text-soft">
        {tour.state !== "draft" && <>{progress(tour)}. </>}
        {tour.postId !== 0 ? (
          <>
            Post:{" "}
            <Link to={`/${site}/write/${tour.postId}`} className="underline underline-offset-2">
              {tour.title}
            </Link>
          </>
        ) : (
          <>
            Page:{" "}
            <a href={tour.address} target="_blank" rel="noreferrer" className="underline underline-offset-2">
              {tour.title}
            </a>
          </>
        )}
      </p>
      {look.error && changed && <Warning>{look.error.message}</Warning>}
      {troubled.length > 0 && (
        <Warning>
          {counted(troubled.length, "message")} can’t be sent like this, so the tour can’t be launched. The
          first is stop {troubled[0]?.stop} on{" "}
          {channels.find((c) => c.id === troubled[0]?.channelId)?.name ?? "a channel that is gone"}:{" "}
          {troubled[0]?.message}
        </Warning>
      )}
      {editable && (
        <div className="@container mt-3 mb-5">
          <div className="grid gap-x-8 gap-y-4 @4xl:grid-cols-[minmax(0,1fr)_20rem]">
            <div>
              <label className="mb-3 block max-w-md text-sm text-soft">
                Name
                <input
                  className={`${inputLook} mt-1`}
                  value={settings.name}
                  onChange={(e) => set({ name: e.target.value })}
                />
              </label>
              <Lines
                lines={settings.lines}
                offered={tour.lines}
                stops={settings.shape.stops}
                problem={problem}
                onChange={set}
              />
            </div>
            <div className="space-y-5">
              <section aria-label="When">
                <h2 className="mb-2 text-base font-semibold">When</h2>
                <ShapeFields shape={settings.shape} problem={problem} onChange={set} />
              </section>
              <section aria-label="Where and what">
                <h2 className="mb-2 text-base font-semibold">Where and what</h2>
                <SayFields
                  site={site}
                  ofPost={tour.postId !== 0}
                  settings={settings}
                  channels={channels}
                  problem={problem}
                  onChange={set}
                />
              </section>
            </div>
          </div>
        </div>
      )}
      <section aria-label="Stops" aria-busy={look.isPlaceholderData} className="aria-busy:renewed">
        <h2 className="mb-1.5 text-base font-semibold">Stops</h2>
        <YearTape stops={shown.series} onMove={editable ? move : undefined} />
        <div className="mt-3" />
        <Stops
          stops={shown.series}
          channels={channels}
          moved={settings.moved}
          own={settings.own}
          onChange={editable ? set : undefined}
        />
      </section>
    </main>
  );
}
