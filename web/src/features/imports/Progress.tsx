import { Button } from "../../ui/Button";
import { Copied } from "../../ui/Copied";
import { shownMoment } from "../../ui/siteClock";
import { useSay } from "../../ui/toast";
import { useImportDeeds, type WholeImport } from "./imports";

const doing = { reading: "Reading", landing: "Bringing in", undoing: "Undoing" };

/** Between two portions: when the next one comes, and how it comes sooner. */
function Portions({ site, of: i }: { site: string; of: WholeImport }) {
  const say = useSay();
  const { hurry, trigger } = useImportDeeds(site);
  return (
    <div className="mb-3 space-y-2 text-sm">
      <p className="tabular-nums">
        {i.next ? (
          <>
            The next portion comes <b className="font-semibold">{shownMoment(i.next)}</b>.
          </>
        ) : (
          "The next portion comes when you ask for it."
        )}
      </p>
      <div className="flex flex-wrap gap-2">
        <Button onClick={() => hurry.mutate(i.id, { onError: say.trouble })}>
          Bring in the next portion now
        </Button>
        <Button look="quiet" onClick={() => trigger.mutate(i, { onError: say.trouble })}>
          Get an address for other programs
        </Button>
      </div>
      {trigger.data && (
        <div className="space-y-1">
          <p className="text-soft">
            A POST request to it brings in the next portion. It isn’t shown again; getting another one ends
            it.
          </p>
          <Copied label="Address" text={trigger.data.address} />
        </div>
      )}
    </div>
  );
}

/** How far work in the background has come, and how it is paused, resumed or cancelled. */
export function Progress({ site, of: i }: { site: string; of: WholeImport }) {
  const say = useSay();
  const deeds = useImportDeeds(site);
  const c = i.counts;
  const what = i.state === "paused" ? (i.pausedIn ?? "landing") : (i.state as keyof typeof doing);
  const [done, all] =
    what === "reading"
      ? [i.read, i.total ?? 0]
      : what === "undoing"
        ? [c.undone + c.kept, c.undone + c.kept + c.landed + c.updated]
        : [c.landed + c.updated, c.landed + c.updated + c.ready + c.update];
  const percent = all > 0 ? Math.round((done / all) * 100) : undefined;
  const speed = i.spent >= 1 && !i.setup.landing?.portion ? done / i.spent : undefined;
  const left = speed && all > done ? Math.ceil((all - done) / speed) : undefined;
  const options = { onError: say.trouble };
  return (
    <section aria-label="Progress" className="mb-4 rounded-md border border-strong bg-sheet px-4 py-3">
      <p role="status" className="mb-2 text-base tabular-nums">
        {i.state === "paused" ? `Paused while ${doing[what].toLowerCase()}` : doing[what]}:{" "}
        {all > 0 ? `${done} of ${all}` : done} {what === "reading" ? "lines" : "posts"}
        {i.state !== "paused" && speed && (
          <span className="text-soft">
            {" "}
            · {Math.round(speed)} a second{left ? ` · about ${shownLeft(left)} left` : ""}
          </span>
        )}
      </p>
      <div className="mb-3 h-2 overflow-hidden rounded-full bg-sunk">
        <div
          className={`h-full bg-ink ${percent === undefined ? "w-1/4 motion-safe:animate-pulse" : ""}`}
          style={percent === undefined ? {} : { width: `${percent}%` }}
        />
      </div>
      {i.rests && <Portions site={site} of={i} />}
      <p className="mb-3 text-xs text-soft">
        It goes on by itself, also when this page is closed or the program restarts.
      </p>
      {i.state !== "undoing" && (
        <div className="flex gap-2">
          {i.state === "paused" ? (
            <Button look="main" onClick={() => deeds.resume.mutate(i, options)}>
              Resume
            </Button>
          ) : (
            <Button onClick={() => deeds.pause.mutate(i, options)}>Pause</Button>
          )}
          <Button look="quiet" onClick={() => deeds.cancel.mutate(i, options)}>
            {i.begun ? "Cancel; what has come in stays" : "Cancel"}
          </Button>
        </div>
      )}
    </section>
  );
}

function shownLeft(seconds: number): string {
  if (seconds < 90) return `${seconds} s`;
  return `${Math.round(seconds / 60)} min`;
}
