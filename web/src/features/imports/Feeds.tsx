import { useState } from "react";
import { AddButton } from "../../ui/AddButton";
import { Button } from "../../ui/Button";
import { shownMoment } from "../../ui/siteClock";
import { useSay } from "../../ui/toast";
import { FeedSheet } from "./FeedSheet";
import { useFeedDeeds, useFeeds, type Feed } from "./feeds";

/** Feeds whose new items come by themselves. */
export function Feeds({ site }: { site: string }) {
  const all = useFeeds(site);
  const [editing, setEditing] = useState<Feed | "new">();
  return (
    <section aria-label="Feeds" className="mt-6">
      <h2 className="mb-1 text-base font-semibold">Feeds</h2>
      <p className="mb-2 text-sm text-soft">
        New items of a feed become drafts, or messages to share, as they appear there.
      </p>
      {(all.data?.feeds.length ?? 0) > 0 && (
        <ul aria-label="Your feeds" className="mb-2 divide-y divide-line border-y border-line">
          {all.data?.feeds.map((f) => (
            <Row key={f.id} site={site} feed={f} onEdit={() => setEditing(f)} />
          ))}
        </ul>
      )}
      <AddButton onAdd={() => setEditing("new")}>Add a feed</AddButton>
      {editing && (
        <FeedSheet
          site={site}
          feed={editing === "new" ? undefined : editing}
          onClose={() => setEditing(undefined)}
        />
      )}
    </section>
  );
}

function Row({ site, feed: f, onEdit }: { site: string; feed: Feed; onEdit: () => void }) {
  const say = useSay();
  const { look } = useFeedDeeds(site);
  return (
    <li className="flex flex-wrap items-center gap-x-4 gap-y-0.5 py-2">
      <div className="min-w-56 flex-1">
        <p className="text-base font-semibold wrap-anywhere">{f.name}</p>
        <p className="text-xs wrap-anywhere text-soft">{f.address}</p>
        {f.problem && <p className="text-sm font-semibold text-madder">! {f.problem}</p>}
      </div>
      <p className="w-64 text-sm text-soft tabular-nums">
        {f.paused
          ? "‖ Paused"
          : f.looked
            ? `Looked at ${shownMoment(f.looked)}, next ${shownMoment(f.next)}`
            : "Being looked at for the first time"}
      </p>
      <div className="flex gap-1">
        {!f.paused && (
          <Button look="quiet" onClick={() => look.mutate(f.id, { onError: say.trouble })}>
            Look now
          </Button>
        )}
        <Button look="quiet" onClick={onEdit}>
          Edit…
        </Button>
      </div>
    </li>
  );
}
