import { X } from "lucide-react";
import { Link } from "react-router";
import { IconButton } from "../../ui/Button";
import { shownDay } from "../../ui/siteClock";
import { usePlanner } from "../session/session";
import { BeginTour } from "../tours/BeginTour";
import { PostUpkeep } from "./PostUpkeep";
import { ageWords } from "./scale";
import type { Mark } from "./marks";

/** Beside the map: one post, and what becomes of it. */
export function PostPanel({ site, mark, onClose }: { site: string; mark: Mark; onClose: () => void }) {
  const { post, age } = mark;
  const planner = usePlanner(site);
  return (
    <section aria-label="The post" className="space-y-2">
      <div className="flex items-start gap-2">
        <h2 className="min-w-0 flex-1 text-base font-semibold">
          <Link to={`/${site}/write/${post.id}`} className="underline underline-offset-2">
            {post.title}
          </Link>
        </h2>
        <IconButton label="Close" onClick={onClose}>
          <X size={14} />
        </IconButton>
      </div>
      <p className="text-sm text-soft">
        Out on {shownDay(post.published)}, {ageWords(age)} ago
        {post.again ? `; came out again ${times(post.again)}` : ""}
        {post.shared ? `; shared ${times(post.shared)}` : ""}.
      </p>
      <PostUpkeep site={site} id={post.id} />
      {planner && <BeginTour site={site} post={post.id} />}
    </section>
  );
}

const times = (n: number) => (n === 1 ? "once" : n === 2 ? "twice" : `${n} times`);
