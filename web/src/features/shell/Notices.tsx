import {
  Archive,
  CirclePause,
  CloudOff,
  Globe,
  MessageCircleQuestionMark,
  TriangleAlert,
  X,
} from "lucide-react";
import { useState, type ReactNode } from "react";
import { Link } from "react-router";
import { askAgain, useBehind } from "../../api/queries";
import { Temporal } from "../../ui/temporal";
import { IconButton } from "../../ui/Button";
import { zoneCity } from "../../ui/civil";
import { useStatus } from "../plan/status";
import { RequestNotice } from "../remarks/RequestNotice";
import { usePlanner } from "../session/session";

/** What an editor must know on every screen: no engine, a paused site, another zone. */
export function Notices({ site, zone }: { site: string; zone: string }) {
  const status = useStatus(site).data;
  const asking = status?.asking ?? [];
  const planner = usePlanner(site);
  const behind = useBehind();
  return (
    <>
      {behind && (
        <Notice look="bg-madder-wash text-madder" icon={<CloudOff size={16} aria-hidden />}>
          The server isn’t answering, so what you see may be out of date. Nothing you typed is lost.{" "}
          <button type="button" onClick={askAgain} className="underline underline-offset-2">
            Ask again now
          </button>
        </Notice>
      )}
      {status && !status.engine.alive && (
        <Notice look="bg-madder-wash text-madder" icon={<TriangleAlert size={16} aria-hidden />}>
          No engine is running, so nothing comes out. Start one: <code>dapper serve</code> or{" "}
          <code>dapper work</code>.
        </Notice>
      )}
      {status?.archived && (
        <Notice look="bg-madder-wash text-madder" icon={<Archive size={16} aria-hidden />}>
          This blog is archived: readers are told that it is closed, and nothing comes out.{" "}
          <Link to={`/${site}/settings`} className="underline underline-offset-2">
            Bring it back
          </Link>
        </Notice>
      )}
      {status?.paused && !status.archived && (
        <Notice look="bg-madder-wash text-madder" icon={<CirclePause size={16} aria-hidden />}>
          The site is paused: nothing comes out until you resume it.{" "}
          <Link to={`/${site}/overdue`} className="underline underline-offset-2">
            What is overdue
          </Link>
        </Notice>
      )}
      {status && !status.paused && status.overdue > 0 && (
        <Notice look="bg-madder-wash text-madder" icon={<TriangleAlert size={16} aria-hidden />}>
          {status.overdue === 1
            ? "1 post is overdue and needs"
            : `${status.overdue} posts are overdue and need`}{" "}
          your decision.{" "}
          <Link to={`/${site}/overdue`} className="underline underline-offset-2">
            See what is overdue
          </Link>
        </Notice>
      )}
      {asking.length > 0 && (
        <Notice look="bg-madder-wash text-madder" icon={<CirclePause size={16} aria-hidden />}>
          {asking.length === 1 ? "A rule needs your decision: " : "Rules need your decision: "}
          {asking.map((r) => (
            <Link key={r.id} to={`/${site}/rules/${r.id}`} className="underline underline-offset-2">
              {r.name}
            </Link>
          ))}
        </Notice>
      )}
      {status && status.heldEdits.length > 0 && (
        <Notice look="bg-madder-wash text-madder" icon={<CirclePause size={16} aria-hidden />}>
          {status.heldEdits.length === 1
            ? "A timed edit is on hold: "
            : `${status.heldEdits.length} timed edits are on hold: `}
          {status.heldEdits.slice(0, 3).map((e, i) => (
            <span key={e.id}>
              {i > 0 && ", "}
              <Link to={`/${site}/edits/${e.id}`} className="underline underline-offset-2">
                {e.title}
              </Link>
            </span>
          ))}
        </Notice>
      )}
      {planner &&
        status?.requests.slice(0, 2).map((r) => (
          <Notice
            key={r.id}
            look="bg-open text-ink"
            icon={<MessageCircleQuestionMark size={16} aria-hidden />}
          >
            <RequestNotice site={site} request={r} />
          </Notice>
        ))}
      {status && status.stuck.length > 0 && (
        <Notice look="bg-madder-wash text-madder" icon={<TriangleAlert size={16} aria-hidden />}>
          Some posts don’t get to {status.stuck.join(", ")}.{" "}
          <Link to={`/${site}/settings/destinations`} className="underline underline-offset-2">
            See why
          </Link>
        </Notice>
      )}
      <ZoneNotice zone={zone} />
    </>
  );
}

/** Said once: the browser's clock is not the site's. */
function ZoneNotice({ zone }: { zone: string }) {
  const here = Temporal.Now.timeZoneId();
  const key = `dapper.zone-noticed.${zone}.${here}`;
  const [noticed, setNoticed] = useState(() => localStorage.getItem(key) !== null);
  if (noticed || here === zone) return null;
  return (
    <Notice look="bg-open text-ink" icon={<Globe size={16} aria-hidden />}>
      All times here are {zoneCity(zone)} time, the site’s. Your browser is on {zoneCity(here)} time.
      <IconButton
        label="Close"
        className="ml-2"
        onClick={() => {
          localStorage.setItem(key, "yes");
          setNoticed(true);
        }}
      >
        <X size={14} />
      </IconButton>
    </Notice>
  );
}

function Notice({ look, icon, children }: { look: string; icon: ReactNode; children: ReactNode }) {
  return (
    <div role="status" className={`flex min-h-9 items-center gap-2 px-5 text-sm ${look}`}>
      {icon}
      <div className="flex flex-wrap items-center gap-1">{children}</div>
    </div>
  );
}
