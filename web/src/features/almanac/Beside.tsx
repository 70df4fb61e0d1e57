import { lazy, Suspense, useEffect } from "react";
import type { Almanac } from "../plan/almanac";
import { DayPanel } from "./DayPanel";
import { DeedPanel } from "./DeedPanel";
import type { DeedMark } from "../plan/marks";
import { Shelf } from "./Shelf";
import { markId } from "../tape/ThinMarks";

// The panel's forms are not wanted until something is chosen; they are fetched once the plan is there.
const panel = () => import("./PostPanel").then((m) => ({ default: m.PostPanel }));
const PostPanel = lazy(panel);

type Props = {
  site: string;
  plan: Almanac;
  chosen: { post: number | undefined; mark: string | undefined; day: string | undefined };
  deeds: DeedMark[];
  picked: ReadonlySet<number>;
  onPost: (id: number) => void;
  onDay: (date: string) => void;
  onClose: () => void;
};

/** What stands beside the plan: what was chosen on it, or the shelf. */
export function Beside({ site, plan, chosen, deeds, picked, onPost, onDay, onClose }: Props) {
  useEffect(() => {
    const timer = setTimeout(() => void panel(), 500);
    return () => clearTimeout(timer);
  }, []);
  const mark = deeds.find((m) => markId(m) === chosen.mark);
  const day = plan.days.find((d) => d.date === chosen.day);
  const name = chosen.post ? "Chosen post" : mark ? "Chosen deed" : day ? "Chosen day" : "Shelf";
  return (
    <aside className="w-80 shrink-0 max-lg:w-72 max-md:w-full print:hidden" aria-label={name}>
      {chosen.post ? (
        <Suspense fallback={null}>
          <PostPanel
            key={chosen.post}
            site={site}
            id={chosen.post}
            plan={plan}
            onClose={onClose}
            onDay={onDay}
          />
        </Suspense>
      ) : mark ? (
        <DeedPanel key={markId(mark)} site={site} mark={mark} onClose={onClose} />
      ) : day ? (
        <DayPanel day={day} onPost={onPost} onClose={onClose} />
      ) : (
        <Shelf site={site} plan={plan} picked={picked} onPost={onPost} />
      )}
    </aside>
  );
}
