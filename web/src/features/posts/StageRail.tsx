import { Link } from "react-router";
import { useWaiting } from "../comments/comments";
import { shownStages, stages, type Stage } from "./posts";

type Props = {
  site: string;
  counts: Record<string, number> | undefined;
  chosen: Stage | "";
  onChoose: (stage: Stage | "") => void;
};

/** The stages of a post's life with how many posts stand in each, drawn as lengths of tape. */
export function StageRail({ site, counts, chosen, onChoose }: Props) {
  const waiting = useWaiting(site);
  const most = Math.max(1, ...stages.map((s) => counts?.[s.stage] ?? 0));
  const all = shownStages.reduce((sum, s) => sum + (counts?.[s.stage] ?? 0), 0);
  return (
    <nav
      aria-label="Stages"
      className="flex gap-1 overflow-x-auto md:w-40 md:shrink-0 md:flex-col md:overflow-visible"
    >
      <Row name="All posts" n={counts ? all : undefined} on={chosen === ""} onClick={() => onChoose("")} />
      {stages.map((s) => (
        <Row
          key={s.stage}
          name={s.name}
          n={counts?.[s.stage]}
          share={(counts?.[s.stage] ?? 0) / most}
          trouble={s.stage === "held" && (counts?.held ?? 0) > 0}
          on={chosen === s.stage}
          onClick={() => onChoose(s.stage)}
        />
      ))}
      <Link
        to={`/${site}/comments`}
        className="flex shrink-0 justify-between gap-3 rounded-md px-2 py-1 text-sm text-soft hover:bg-sunk hover:text-ink md:mt-3"
      >
        Comments
        {waiting > 0 && <span className="text-ink">{waiting} waiting</span>}
      </Link>
      <Link
        to={`/${site}/pictures`}
        className="shrink-0 rounded-md px-2 py-1 text-sm text-soft hover:bg-sunk hover:text-ink"
      >
        Pictures
      </Link>
    </nav>
  );
}

type RowProps = {
  name: string;
  n: number | undefined;
  share?: number;
  trouble?: boolean;
  on: boolean;
  onClick: () => void;
};

function Row({ name, n, share, trouble = false, on, onClick }: RowProps) {
  return (
    <button
      type="button"
      aria-current={on ? "true" : undefined}
      onClick={onClick}
      className={`shrink-0 rounded-md px-2 py-1 text-left text-sm ${on ? "bg-ink text-ground" : trouble ? "text-madder hover:bg-sunk" : "text-ink hover:bg-sunk"}`}
    >
      <span className="flex justify-between gap-3 whitespace-nowrap">
        <span>{name}</span>
        <span className={on ? "" : "text-soft"}>{n?.toLocaleString("en-GB") ?? ""}</span>
      </span>
      {share !== undefined && (
        <span aria-hidden className="mt-0.5 hidden h-1 md:block">
          <span
            className={`block h-1 ${on ? "bg-tape" : "bg-strong"}`}
            style={{ width: `${share > 0 ? Math.max(2, share * 100) : 0}%` }}
          />
        </span>
      )}
    </button>
  );
}
