import { useEffect, useState } from "react";
import { Button } from "../../ui/Button";
import { ahead } from "../../ui/civil";
import { shownDate, shownPlace } from "../../ui/siteClock";
import { useSay } from "../../ui/toast";
import { Warning } from "../../ui/Trouble";
import { useOutingDeeds } from "../channels/channels";
import { useTell } from "../logbook/useTell";
import { usePlanner } from "../session/session";
import { over, type Preview, type Rule } from "./rules";
import { TurnSheet } from "./TurnSheet";

/** How many are shown until all are asked for. */
const few = 6;

type Event = Preview["coming"][number];

type Props = {
  site: string;
  preview: Preview;
  share: boolean;
  clockAhead: number;
  /** The rule as it is kept; without one nothing can be changed. */
  rule?: Rule | undefined;
  /** Whether the form holds what is not saved. */
  changed: boolean;
};

/** What the rule does next: the coming outings with their whole messages, each of which can be changed. */
export function Coming({ site, preview, share, clockAhead, rule, changed }: Props) {
  const first = preview.coming[0];
  const [open, setOpen] = useState<Event[]>();
  const [all, setAll] = useState(false);
  const editor = usePlanner(site);
  const can = editor && share && rule?.state === "armed" && !changed;
  return (
    <section aria-label="Coming" className="mb-5">
      <h2 className="mb-1 text-base font-semibold">
        {share ? "Coming outings" : "Comes out again"}{" "}
        {first && <Countdown at={first.at} clockAhead={clockAhead} />}
      </h2>
      {preview.warnings.map((w) => (
        <div key={w} className="mb-1.5">
          <Warning>{w}</Warning>
        </div>
      ))}
      {share && <HowLong preview={preview} />}
      {preview.unfit.length > 0 && <Unfit unfit={preview.unfit} />}
      {preview.coming.length === 0 ? (
        <p className="text-sm text-soft">Nothing within a year.</p>
      ) : (
        <ol className="divide-y divide-line border-y border-line">
          {preview.coming.slice(0, all ? undefined : few).map((e) => (
            <li key={`${e.at} ${e.channelId ?? 0} ${e.postId}`} className="py-1.5">
              <p className="text-xs text-soft">
                <span className="font-semibold text-ink">{shownPlace(e)}</span>
                {share && ` · ${e.channel} · wording ${e.wording + 1} · ${e.graphemes ?? 0} characters`}
                {e.isReply && " · reply"}
                {e.inHand && " · changed by hand"}
              </p>
              <p dir="auto" className="text-sm wrap-anywhere whitespace-pre-wrap">
                {share ? e.text : e.title}
              </p>
              {e.fit && <p className="text-xs text-away">To fit: {e.fit}.</p>}
              {can && !e.isReply && (
                <Change
                  site={site}
                  rule={rule}
                  event={e}
                  next={preview.coming.find((o) => o.at > e.at && !o.isReply && !sameTurn(o, e))}
                  onOpen={() =>
                    setOpen(
                      e.outingId
                        ? [e]
                        : preview.coming.filter((o) => o.turn === e.turn && !o.outingId && !o.isReply),
                    )
                  }
                />
              )}
            </li>
          ))}
        </ol>
      )}
      {!all && preview.coming.length > few && (
        <Button look="quiet" onClick={() => setAll(true)}>
          Show {preview.coming.length - few} more
        </Button>
      )}
      {open && rule && (
        <TurnSheet
          site={site}
          rule={{ id: rule.id, name: rule.name }}
          says={open}
          onClose={() => setOpen(undefined)}
        />
      )}
    </section>
  );
}

/** How long the pool lasts. */
function HowLong({ preview }: { preview: Preview }) {
  if (!preview.round && !preview.dry) return null;
  return (
    <p className="mb-2 text-sm text-soft">
      {preview.round && `Every post will have had its turn by about ${shownDate(preview.round.date)}. `}
      {preview.dry && (
        <span className="text-madder">From {shownDate(preview.dry.date)} on it has no post to send.</span>
      )}
    </p>
  );
}

const sameTurn = (a: Event, b: Event) => a.turn === b.turn && !a.outingId && !b.outingId;

/** Where an outing stands: in an editor's hand, or at a turn as it is foretold. */
const placeOf = (e: Event) =>
  e.outingId ? { outingId: e.outingId, version: e.version ?? 0 } : { turn: e.turn };

/** What can be done about a coming outing. */
function Change({
  site,
  rule,
  event,
  next,
  onOpen,
}: {
  site: string;
  rule: Rule;
  event: Event;
  /** The first message of the turn after it. */
  next: Event | undefined;
  onOpen: () => void;
}) {
  const { take, drop, swap } = useOutingDeeds(site);
  const say = useSay();
  const tell = useTell(site);
  const busy = take.isPending || drop.isPending || swap.isPending;
  const swapWith = (other: Event) =>
    swap
      .mutateAsync({ rule: rule.id, one: placeOf(event), with: placeOf(other) })
      .then(() => tell("Swapped. The rule goes on around them."), say.trouble);
  const leaveOut = () => {
    const doing: Promise<unknown> = event.outingId
      ? drop.mutateAsync({ id: event.outingId, version: event.version ?? 0 })
      : take.mutateAsync({ rule: rule.id, turn: event.turn, outings: [] });
    doing.then(() => tell("Left out. The rule goes on with its next turn."), say.trouble);
  };
  return (
    <p className="flex gap-3 text-xs">
      <Button look="quiet" className="h-6! px-0! text-xs!" onClick={onOpen}>
        Change…
      </Button>
      {next && (
        <Button
          look="quiet"
          className="h-6! px-0! text-xs!"
          disabled={busy}
          title={`With what goes out at ${shownPlace(next)}`}
          onClick={() => void swapWith(next)}
        >
          Swap with next
        </Button>
      )}
      <Button look="quiet" className="h-6! px-0! text-xs!" disabled={busy} onClick={leaveOut}>
        Leave out
      </Button>
    </p>
  );
}

/** The messages that the channels cannot take, and by how much they are too long. */
function Unfit({ unfit }: { unfit: Preview["unfit"] }) {
  return (
    <section aria-label="Messages that do not fit" className="mb-3">
      <h3 className="text-sm font-semibold text-madder">
        {unfit.length === 1 ? "1 message does not fit" : `${unfit.length} messages do not fit`}
      </h3>
      <ul className="divide-y divide-line border-y border-line text-sm">
        {unfit.map((u) => (
          <li key={`${u.postId} ${u.channel} ${u.wording}`} className="flex flex-wrap gap-x-3 py-1">
            <span className="min-w-0 truncate">{u.title}</span>
            <span className="text-soft">
              {u.channel}, wording {u.wording + 1}
            </span>
            <span className="ml-auto text-madder">{u.over > 0 ? over(u.over) : u.reason}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** How long until a moment by the server's clock; counts by itself. */
export function Countdown({ at, clockAhead }: { at: string; clockAhead: number }) {
  const [now, setNow] = useState(() => Date.now());
  useEffect(() => {
    const timer = window.setInterval(() => setNow(Date.now()), 1000);
    return () => window.clearInterval(timer);
  }, []);
  const seconds = (Date.parse(at) - now - clockAhead) / 1000;
  return <span className="text-sm font-normal text-soft">{ahead(seconds)}</span>;
}
