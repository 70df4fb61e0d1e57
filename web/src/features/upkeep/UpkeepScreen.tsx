import { Minus, MoveLeft, MoveRight, Plus } from "lucide-react";
import { memo, useCallback, useMemo, useState } from "react";
import { useParams } from "react-router";
import { Button, IconButton } from "../../ui/Button";
import { Segments } from "../../ui/Segments";
import { Trouble } from "../../ui/Trouble";
import { Waiting } from "../../ui/Waiting";
import { useNarrow } from "../../ui/useNarrow";
import { usePlanner } from "../session/session";
import { NewTourSheet } from "../tours/NewTourSheet";
import { LinePanel } from "./LinePanel";
import { Map as AgeMapView } from "./Map";
import { marksOf, type Mark } from "./marks";
import { NoticeLists } from "./NoticeLists";
import { OnceSheet } from "./OnceSheet";
import { PostPanel } from "./PostPanel";
import { PostTable } from "./PostTable";
import { panned, wholeStretch, zoomed, type Stretch } from "./scale";
import type { MovedLine } from "./Thresholds";
import { groups, useAgeMap, type AgeMap, type Group } from "./upkeep";

/** The home of upkeep: every published post by its age, and what looks after it. */
export default function UpkeepScreen() {
  const { site = "" } = useParams();
  const map = useAgeMap(site);
  if (map.isPending) return <Waiting what="the age map" />;
  if (map.error) return <Trouble error={map.error} retry={() => void map.refetch()} />;
  return <Upkeep site={site} map={map.data} />;
}

/** Of how many posts tours are begun in one go at most. */
const mostToured = 100;

const views = [
  { value: "map" as const, name: "Map" },
  { value: "table" as const, name: "Table" },
];

function Upkeep({ site, map }: { site: string; map: AgeMap }) {
  const narrow = useNarrow();
  const planner = usePlanner(site);
  const [view, setView] = useState<"map" | "table">(narrow ? "table" : "map");
  const [shown, setShown] = useState<Group>();
  const [chosen, setChosen] = useState<ReadonlySet<number>>(new Set());
  const [open, setOpen] = useState<number>();
  const [moved, setMoved] = useState<MovedLine>();
  const [touring, setTouring] = useState(false);
  const [doing, setDoing] = useState<"chosen" | "matching">();
  // Ages and groups do not depend on where marks are drawn.
  const posts = useMemo(() => marksOf(map, { from: 1, to: 10 }, 1, 1), [map]);
  const whole = useMemo(() => wholeStretch(posts.map((m) => m.age)), [posts]);
  const [part, setPart] = useState<Stretch>();
  const stretch = part ?? whole;
  const choose = useCallback((ids: number[], more: boolean) => {
    setChosen((before) => new Set(more ? [...before, ...ids] : ids));
    if (ids.length > 0) setOpen(undefined);
  }, []);
  const openPost = useCallback((id: number) => {
    setMoved(undefined);
    setOpen(id);
  }, []);
  const moveLine = useCallback((line: MovedLine) => {
    setOpen(undefined);
    setMoved(line);
  }, []);
  const zoom = useCallback(
    (factor: number, round: number) => setPart((now) => zoomed(now ?? whole, whole, factor, round)),
    [whole],
  );
  const middle = Math.sqrt(stretch.from * stretch.to);
  const line = moved && map.lines.find((l) => l.id === moved.id);
  const opened = useMemo(
    () => (open === undefined ? undefined : posts.find((m) => m.post.id === open)),
    [posts, open],
  );
  return (
    <main className="mx-auto w-full max-w-[100rem] px-5 pt-4 pb-12">
      <div className="mb-2 flex flex-wrap items-baseline gap-x-3 gap-y-2">
        <h1 className="font-title text-2xl">Upkeep</h1>
        <p className="text-sm text-soft">
          {map.total === 1 ? "1 post" : `${map.total.toLocaleString("en-GB")} posts`} out, by age. Drag a
          rule’s line to change what it matches.
        </p>
        <div className="ml-auto flex items-center gap-1.5">
          {view === "map" && (
            <>
              <IconButton
                label="Younger"
                disabled={!part}
                onClick={() => setPart(panned(stretch, whole, -0.5))}
              >
                <MoveLeft size={15} />
              </IconButton>
              <IconButton label="Older" disabled={!part} onClick={() => setPart(panned(stretch, whole, 0.5))}>
                <MoveRight size={15} />
              </IconButton>
              <IconButton label="Zoom out" disabled={!part} onClick={() => zoom(0.5, middle)}>
                <Minus size={15} />
              </IconButton>
              <IconButton label="Zoom in" onClick={() => zoom(2, middle)}>
                <Plus size={15} />
              </IconButton>
              {part && (
                <Button look="quiet" onClick={() => setPart(undefined)}>
                  All ages
                </Button>
              )}
            </>
          )}
          <Segments label="View" value={view} options={views} onChange={setView} />
          {planner && <Button onClick={() => setDoing("matching")}>Do something once…</Button>}
        </div>
      </div>
      <Groups posts={posts} shown={shown} onShow={setShown} />
      {map.total > map.posts.length && (
        <p className="mb-2 text-sm text-soft">
          The oldest {map.posts.length.toLocaleString("en-GB")} are shown. Narrow the view by a rule, or use
          Posts.
        </p>
      )}
      <div className="grid grid-cols-[minmax(0,1fr)_19rem] gap-6 max-lg:grid-cols-1">
        <div className="min-w-0">
          {view === "map" ? (
            <AgeMapView
              map={map}
              stretch={stretch}
              shown={shown}
              chosen={chosen}
              moved={moved}
              onChoose={choose}
              onOpen={openPost}
              onMove={moveLine}
              onZoom={zoom}
            />
          ) : (
            <PostTable site={site} map={map} marks={posts} shown={shown} chosen={chosen} onChoose={choose} />
          )}
          {chosen.size > 0 && (
            <div
              role="region"
              aria-label="Chosen posts"
              className="sticky bottom-3 z-20 mt-3 flex flex-wrap items-center gap-2 rounded-md border border-strong bg-sheet px-3 py-2 text-sm shadow-lifted"
            >
              <span role="status">{chosen.size.toLocaleString("en-GB")} chosen</span>
              {planner && <Button onClick={() => setDoing("chosen")}>Do something…</Button>}
              {planner && chosen.size <= mostToured && (
                <Button onClick={() => setTouring(true)}>{chosen.size === 1 ? "Tour…" : "Tours…"}</Button>
              )}
              <Button look="quiet" onClick={() => setChosen(new Set())}>
                Clear selection
              </Button>
            </div>
          )}
        </div>
        <aside aria-label="Beside the map" className="min-w-0">
          {line && moved ? (
            <LinePanel
              key={line.id}
              site={site}
              line={line}
              moved={moved}
              onDone={() => setMoved(undefined)}
            />
          ) : opened ? (
            <PostPanel key={opened.post.id} site={site} mark={opened} onClose={() => setOpen(undefined)} />
          ) : (
            view === "map" && <Legend />
          )}
        </aside>
      </div>
      <div className="mt-6 border-t border-line pt-4">
        <NoticeLists site={site} />
      </div>
      {touring && (
        <NewTourSheet
          site={site}
          posts={map.posts.filter((p) => chosen.has(p.id)).map(({ id, title }) => ({ id, title }))}
          onClose={() => setTouring(false)}
        />
      )}
      {doing && (
        <OnceSheet
          site={site}
          {...(doing === "chosen" ? { ids: [...chosen] } : {})}
          onClose={() => setDoing(undefined)}
          onDone={() => setChosen(new Set())}
        />
      )}
    </main>
  );
}

/** What the blog's posts are at a glance; each group can be picked out. */
const Groups = memo(function Groups({
  posts,
  shown,
  onShow,
}: {
  posts: Mark[];
  shown: Group | undefined;
  onShow: (g: Group | undefined) => void;
}) {
  const counts = useMemo(
    () =>
      new Map(
        (Object.keys(groups) as Group[]).map((g) => [g, posts.filter((m) => m.groups.includes(g)).length]),
      ),
    [posts],
  );
  return (
    <div role="toolbar" aria-label="Pick out" className="mb-3 flex flex-wrap gap-2">
      {(Object.keys(groups) as Group[]).map((g) => {
        const n = counts.get(g) ?? 0;
        return (
          <button
            key={g}
            type="button"
            title={groups[g].hint}
            aria-pressed={shown === g}
            onClick={() => onShow(shown === g ? undefined : g)}
            className={`flex items-baseline gap-2 rounded-md border px-2.5 py-1 text-sm ${shown === g ? "border-ink bg-ink text-ground" : "border-strong bg-sheet hover:border-ink"}`}
          >
            <span
              className={`text-lg font-semibold ${g === "fought" && n > 0 && shown !== g ? "text-madder" : ""}`}
            >
              {n.toLocaleString("en-GB")}
            </span>
            {groups[g].name}
          </button>
        );
      })}
    </div>
  );
});

/** What the forms of marks mean. */
function Legend() {
  return (
    <section aria-label="What the marks mean" className="text-sm">
      <h2 className="mb-1 text-base font-semibold">What the marks mean</h2>
      <ul className="space-y-1 text-soft">
        {legend.map(([mark, said]) => (
          <li key={said} className="flex items-center gap-2">
            <svg width="22" height="22" viewBox="-11 -11 22 22" aria-hidden className="shrink-0 text-ink">
              {mark}
            </svg>
            {said}
          </li>
        ))}
      </ul>
      <p className="mt-3 text-soft">
        Click a mark to see what becomes of the post. Draw a box to choose several; with Shift, more. A line
        can be moved with the arrow keys, too.
      </p>
    </section>
  );
}

const stroke = { fill: "none", stroke: "currentColor", strokeWidth: 1.6 };
const legend = [
  [<circle key="a" r="3.5" fill="currentColor" />, "A post"],
  [<circle key="b" r="3.5" {...stroke} />, "Evergreen"],
  [<rect key="c" x="-3.5" y="-3.5" width="7" height="7" fill="currentColor" />, "Never expires"],
  [<circle key="d" r="6" fill="currentColor" />, "Shared often"],
  [
    <g key="e">
      <circle r="3" fill="currentColor" />
      <path d="M3 -3 L8 -8" {...stroke} />
    </g>,
    "A timed edit waits",
  ],
  [
    <g key="f">
      <circle cy="-3" r="3" fill="currentColor" />
      <path d="M-3.4 4 H3.4 L0 8 Z" fill="currentColor" />
    </g>,
    "Past its time: an expiry rule matches it",
  ],
  [
    <g key="g">
      <circle cy="3" r="3" fill="currentColor" />
      <path d="M-3.4 -4 H3.4 L0 -8 Z" fill="currentColor" />
    </g>,
    "Due again: a republish rule may bring it out",
  ],
] as const;
