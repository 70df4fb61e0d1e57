import { lazy, Suspense, useMemo, useState } from "react";
import { useParams, useSearchParams } from "react-router";
import { addDays, clock, longDate } from "../../ui/civil";
import { useSay } from "../../ui/toast";
import { useTell } from "../logbook/useTell";
import { shownDate } from "../../ui/siteClock";
import { useCommands } from "../../ui/commands";
import { Trouble } from "../../ui/Trouble";
import { useNarrow } from "../../ui/useNarrow";
import { Waiting } from "../../ui/Waiting";
import { writeSort } from "./sort";
import { Moving } from "../moving/Moving";
import { Skip } from "../../ui/Skip";
import { usePlanner, usePreferences } from "../session/session";
import { useAlmanac } from "../plan/almanac";
import { useStatus } from "../plan/status";
import { AlmanacBar } from "./AlmanacBar";
import { Beside } from "./Beside";
import { ChosenBar } from "./ChosenBar";
import { DayList } from "./DayList";
import { filteredMarks, useFiltered } from "./filter";
import { useLensCommands } from "../lenses/Lenses";
import type { Lens } from "../lenses/lenses";
import { useMarkDeeds } from "../plan/markDeeds";
import { layerOf, useLayers, useMarks, type DeedMark } from "../plan/marks";
import { MarkHandContext } from "../tape/markHand";
import { Month } from "./Month";
import { readShown, shownNow, throughLens, useShown } from "./shown";
import { Tape } from "../tape/Tape";
import { lacksOf, useUnready } from "./Unready";
import { monthName, stepped, stretchOf, unitOf, views } from "./view";

const PlanList = lazy(() => import("./PlanList").then((m) => ({ default: m.PlanList })));

const noneChosen: ReadonlySet<number> = new Set();

/** The home of a site: its plan as a tape, a month or a list, and beside it the shelf or what was chosen. */
export default function AlmanacScreen() {
  const { site = "" } = useParams();
  const [search, setSearch] = useSearchParams();
  const narrow = useNarrow();
  const planner = usePlanner(site);
  const { weekStart } = usePreferences();
  const shown = readShown(search);
  const { from, view, span, zoom, filter } = shown;
  const show = useShown(setSearch);
  const today = useStatus(site).data?.now.date;
  const stretch = stretchOf(view, from, span, today, weekStart);
  const almanac = useAlmanac(site, stretch.from, stretch.days);
  const marks = useMarks(site, stretch.from, stretch.days);
  const unready = useUnready(site);
  const [on, toggle] = useLayers();
  const markDeeds = useMarkDeeds(site);
  const say = useSay();
  const tell = useTell(site);
  const [picked, setPicked] = useState(noneChosen);

  const plan = almanac.data;
  const pick = (posts: number[], on: boolean) =>
    setPicked((now) => (on ? now.union(new Set(posts)) : now.difference(new Set(posts))));
  const filteredPlan = useFiltered(plan, filter);
  const lacks = useMemo(() => lacksOf(unready.data), [unready.data]);
  const said = JSON.stringify(filter);
  const deeds = useMemo(
    () =>
      filteredMarks(marks.data?.marks ?? [], JSON.parse(said) as typeof filter).filter((m) =>
        on.includes(layerOf(m.kind)),
      ),
    [marks.data, on, said],
  );
  const first = plan?.days[0]?.date ?? from ?? "2000-01-01";
  const month = from ?? today ?? first;
  // Who steps on before the days are there steps on from where the last step led.
  const step = (forward: boolean) =>
    show({ from: stepped(view, shownNow().from ?? (view === "month" ? month : first), span, forward) });
  const unit = unitOf(view, span);
  const look = ({ plan }: Lens) => plan && show({ ...throughLens(plan), from });
  useLensCommands(site, "plan", look);
  useCommands([
    { name: `A ${unit} earlier`, group: "Almanac", keys: "[", run: () => step(false) },
    { name: `A ${unit} later`, group: "Almanac", keys: "]", run: () => step(true) },
    { name: "Today", group: "Almanac", keys: "t", run: () => show({ from: undefined }) },
    ...views.map((v) => ({
      name: `As a ${v.name.toLowerCase()}`,
      group: "Almanac",
      keys: v.keys,
      run: () => show({ view: v.view }),
    })),
  ]);
  // All of it at once: what came later would move what is under the pointer.
  if (almanac.isPending || marks.isPending || unready.isPending) return <Waiting what="the plan" />;
  if (almanac.error && !plan) return <Trouble error={almanac.error} retry={() => void almanac.refetch()} />;
  if (!plan || !filteredPlan) return null;

  const last = plan.days.at(-1)?.date ?? first;
  const chosen = { post: shown.post, mark: shown.mark, day: shown.day };
  const drawn = {
    plan: filteredPlan,
    chosen: chosen.post,
    picked,
    lacks,
    marks: deeds,
    onPost: (post: number) => show({ post }),
    onDay: (day: string) => show({ day }),
    onMark: (mark: string) => show({ mark }),
  };

  const hand = planner
    ? {
        move: (mark: DeedMark, date: string, minute: number) =>
          void markDeeds.move
            .mutateAsync({ mark, date, minute })
            .then(() => tell(`Moved to ${shownDate(date)}, ${clock(minute)}.`), say.trouble),
        leaveOut: (mark: DeedMark) =>
          void markDeeds.leaveOut.mutateAsync(mark).then(() => tell("Left out."), say.trouble),
      }
    : undefined;

  return (
    <MarkHandContext value={hand}>
      <main className="flex min-h-0 flex-1 px-5 pt-3 pb-4 max-md:px-3">
        <Moving
          site={site}
          plan={plan}
          enabled={planner && !narrow}
          picked={picked}
          onPick={setPicked}
          chosenBar={(posts, onClear) => (
            <ChosenBar site={site} plan={plan} posts={posts} onClear={onClear} />
          )}
        >
          <section
            aria-label="Plan"
            className={`min-w-0 flex-1 ${narrow && (chosen.post ?? chosen.mark ?? chosen.day) ? "hidden" : ""}`}
          >
            <div className="mb-2 flex min-h-8 flex-wrap items-center gap-x-2 gap-y-1">
              <h1 className="min-w-0 truncate font-title text-xl" title={longDate(first)}>
                {view === "month" && !narrow ? (
                  monthName(month)
                ) : span === 1 ? (
                  shownDate(first)
                ) : (
                  <>
                    {shownDate(first)} <span className="text-soft">to {shownDate(last)}</span>
                  </>
                )}
              </h1>
              <Skip to="aside h2" className="z-50">
                Skip the plan
              </Skip>
              <AlmanacBar
                site={site}
                plan={plan}
                shown={shown}
                narrow={narrow}
                planner={planner}
                layers={on}
                onLayer={toggle}
                onShow={show}
                onLook={look}
                onStep={step}
              />
            </div>
            {narrow ? (
              <DayList {...drawn} />
            ) : view === "list" ? (
              <Suspense fallback={<Waiting what="the list" />}>
                <PlanList
                  {...drawn}
                  sort={shown.sort}
                  onSort={(sort) => show({ sort: writeSort(sort) })}
                  onPick={planner ? pick : undefined}
                />
              </Suspense>
            ) : view === "month" ? (
              <Month {...drawn} month={month} />
            ) : (
              <Tape {...drawn} zoom={zoom} chosenMark={shown.mark} />
            )}
          </section>
          <Beside
            site={site}
            plan={plan}
            chosen={chosen}
            deeds={deeds}
            picked={picked}
            onPost={(post) => show({ post })}
            onClose={() => show({})}
            onDay={(date) => show({ from: view === "month" ? date : addDays(date, -3), post: chosen.post })}
          />
        </Moving>
      </main>
    </MarkHandContext>
  );
}
