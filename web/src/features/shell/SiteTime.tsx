import { useBehind } from "../../api/queries";
import { ahead, clock, zoneCity } from "../../ui/civil";
import { useNow } from "../plan/now";
import { useStatus } from "../plan/status";

/** The time at the site, and what comes out next. */
export function SiteTime({ site }: { site: string }) {
  const status = useStatus(site);
  const behind = useBehind();
  const now = useNow(status.data?.now);
  if (!status.data || !now) return null;
  const { next, outing } = status.data;
  const until = (at: string) => ahead((Date.parse(at) - now.millis) / 1000);
  return (
    <div className="text-right text-xs leading-tight text-soft max-lg:hidden">
      <p>
        <span className="font-semibold text-ink">{clock(now.minute)}</span>{" "}
        <span className="max-xl:hidden">in {zoneCity(status.data.zone)} · </span>
        {behind ? (
          <span className="text-madder">not reached</span>
        ) : status.data.engine.alive ? (
          <span className="max-xl:hidden">engine running</span>
        ) : (
          <span className="text-madder">no engine</span>
        )}
      </p>
      <p className="flex max-w-52 justify-end gap-1.5 max-xl:hidden">
        <span className="truncate" title={next?.title}>
          {next ? `${sentence(until(next.at))}: ${next.title}` : "Nothing is scheduled"}
        </span>
        {outing && (
          <span className="shrink-0 text-share" title={`Next outing: ${outing.name}`}>
            <span aria-hidden>◆</span>
            <span className="sr-only">Next outing</span> {until(outing.at)}
          </span>
        )}
      </p>
    </div>
  );
}

function sentence(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1);
}
