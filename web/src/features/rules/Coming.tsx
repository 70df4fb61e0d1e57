import { useEffect, useState } from "react";
import { ahead } from "../../ui/civil";
import { shownPlace } from "../../ui/siteClock";
import { Warning } from "../../ui/Trouble";
import { over, type Preview } from "./rules";

/** What the rule does next: the coming outings with their whole messages, and how long until the first. */
export function Coming({
  preview,
  share,
  clockAhead,
}: {
  preview: Preview;
  share: boolean;
  clockAhead: number;
}) {
  const first = preview.coming[0];
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
      {preview.unfit.length > 0 && <Unfit unfit={preview.unfit} />}
      {preview.coming.length === 0 ? (
        <p className="text-sm text-soft">Nothing within a year.</p>
      ) : (
        <ol className="divide-y divide-line border-y border-line">
          {preview.coming.map((e) => (
            <li key={e.at + e.postId} className="py-1.5">
              <p className="text-xs text-soft">
                <span className="font-semibold text-ink">{shownPlace(e)}</span>
                {share && ` · wording ${e.wording + 1} · ${e.graphemes ?? 0} characters`}
              </p>
              <p className="text-sm wrap-anywhere whitespace-pre-wrap">{share ? e.text : e.title}</p>
              {e.fit && <p className="text-xs text-away">To fit: {e.fit}.</p>}
            </li>
          ))}
        </ol>
      )}
    </section>
  );
}

/** The messages that the channel cannot take, and by how much they are too long. */
function Unfit({ unfit }: { unfit: Preview["unfit"] }) {
  return (
    <section aria-label="Messages that do not fit" className="mb-3">
      <h3 className="text-sm font-semibold text-madder">
        {unfit.length === 1 ? "1 message does not fit" : `${unfit.length} messages do not fit`}
      </h3>
      <ul className="divide-y divide-line border-y border-line text-sm">
        {unfit.map((u) => (
          <li key={`${u.postId} ${u.wording}`} className="flex flex-wrap gap-x-3 py-1">
            <span className="min-w-0 truncate">{u.title}</span>
            <span className="text-soft">wording {u.wording + 1}</span>
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
