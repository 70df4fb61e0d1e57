import { ChevronLeft, ChevronRight } from "lucide-react";
import { useState } from "react";
import { useParams, useSearchParams } from "react-router";
import { Button, IconButton } from "../../ui/Button";
import { addDays, longDate, shortDate } from "../../ui/civil";
import { Trouble } from "../../ui/Trouble";
import { Waiting } from "../../ui/Waiting";
import { shownDays, useAlmanac } from "./almanac";
import { CloseUpSheet } from "./CloseUpSheet";
import { DayPanel } from "./DayPanel";
import { DeedPanel } from "./DeedPanel";
import { Layers } from "./Layers";
import { layerOf, useLayers, useMarks } from "./marks";
import { PostPanel } from "./PostPanel";
import { Shelf } from "./Shelf";
import { Tape } from "./Tape";
import { markId } from "./ThinMarks";

/** The home of a site: the tape of two weeks, and beside it the shelf or what was chosen. */
export default function AlmanacScreen() {
  const { site = "" } = useParams();
  const [search, setSearch] = useSearchParams();
  const from = search.get("from") ?? undefined;
  const almanac = useAlmanac(site, from);
  const [closing, setClosing] = useState(false);
  const marks = useMarks(site, from);
  const [on, toggle] = useLayers();
  if (almanac.isPending) return <Waiting what="the plan" />;
  if (almanac.error && !almanac.data)
    return <Trouble error={almanac.error} retry={() => void almanac.refetch()} />;

  const plan = almanac.data;
  const first = plan.days[0]?.date ?? plan.now.date;
  const chosenPost = Number(search.get("post")) || undefined;
  const shown = (marks.data?.marks ?? []).filter((m) => on.includes(layerOf(m.kind)));
  const chosenMark = shown.find((m) => markId(m) === search.get("mark"));
  const chosenDay = plan.days.find((d) => d.date === search.get("day"));

  /** Changes what is chosen or shown, kept in the address. */
  function show(changes: {
    from?: string | undefined;
    post?: number | undefined;
    day?: string | undefined;
    mark?: string | undefined;
  }) {
    const next = new URLSearchParams(search);
    next.delete("post");
    next.delete("day");
    next.delete("mark");
    for (const [key, value] of Object.entries(changes)) {
      if (value === undefined) next.delete(key);
      else next.set(key, String(value));
    }
    setSearch(next, { replace: !("from" in changes) });
  }

  return (
    <main className="flex min-h-0 flex-1 gap-4 px-5 pt-3 pb-4">
      <section aria-label="Plan" className="min-w-0 flex-1">
        <div className="mb-2 flex h-8 items-center gap-2">
          <h1 className="min-w-0 truncate font-title text-xl" title={longDate(first)}>
            {shortDate(first)}{" "}
            <span className="text-soft">to {shortDate(addDays(first, shownDays - 1))}</span>
          </h1>
          <div className="ml-auto flex items-center gap-1">
            {from && (
              <Button look="quiet" onClick={() => show({ from: undefined })}>
                Today
              </Button>
            )}
            <Layers on={on} onToggle={toggle} />
            <Button look="quiet" onClick={() => setClosing(true)}>
              Close up…
            </Button>
            <IconButton label="A week earlier" onClick={() => show({ from: addDays(first, -7) })}>
              <ChevronLeft size={16} />
            </IconButton>
            <IconButton label="A week later" onClick={() => show({ from: addDays(first, 7) })}>
              <ChevronRight size={16} />
            </IconButton>
          </div>
        </div>
        <Tape
          plan={plan}
          chosen={chosenPost}
          onPost={(post) => show({ post })}
          onDay={(day) => show({ day })}
          marks={shown}
          chosenMark={search.get("mark") ?? undefined}
          onMark={(mark) => show({ mark })}
        />
      </section>
      <aside
        className="w-80 shrink-0"
        aria-label={
          chosenPost ? "Chosen post" : chosenMark ? "Chosen deed" : chosenDay ? "Chosen day" : "Shelf"
        }
      >
        {chosenPost ? (
          <PostPanel key={chosenPost} site={site} id={chosenPost} plan={plan} onClose={() => show({})} />
        ) : chosenMark ? (
          <DeedPanel site={site} mark={chosenMark} onClose={() => show({})} />
        ) : chosenDay ? (
          <DayPanel day={chosenDay} onPost={(post) => show({ post })} onClose={() => show({})} />
        ) : (
          <Shelf site={site} plan={plan} onPost={(post) => show({ post })} />
        )}
      </aside>
      <CloseUpSheet site={site} open={closing} onClose={() => setClosing(false)} />
    </main>
  );
}
