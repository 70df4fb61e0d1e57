import { memo } from "react";
import { Link } from "react-router";
import { Button } from "../../ui/Button";
import { shownDate } from "../../ui/siteClock";
import { useSay } from "../../ui/toast";
import { Trouble } from "../../ui/Trouble";
import { usePlanner } from "../session/session";
import { useNotices, useUpkeepDeeds, type Notice } from "./upkeep";

/** What rules are about to do, of which people were told: posts to read first, and posts about to expire. */
export const NoticeLists = memo(function NoticeLists({ site }: { site: string }) {
  const notices = useNotices(site);
  if (notices.error) return <Trouble error={notices.error} retry={() => void notices.refetch()} />;
  const all = notices.data?.notices ?? [];
  const toRead = all.filter((n) => n.kind === "republish");
  const expiring = all.filter((n) => n.kind === "expire");
  return (
    <div className="grid gap-x-8 gap-y-5 md:grid-cols-2">
      <List
        title="To read before they come out again"
        none="No rule waits for a post to be read."
        notices={toRead}
        site={site}
      />
      <List title="About to expire" none="No author was told of anything." notices={expiring} site={site} />
    </div>
  );
});

function List({
  title,
  none,
  notices,
  site,
}: {
  title: string;
  none: string;
  notices: Notice[];
  site: string;
}) {
  return (
    <section aria-label={title}>
      <h2 className="mb-1 text-base font-semibold">
        {title}
        {notices.length > 0 && <span className="font-normal text-soft"> {notices.length}</span>}
      </h2>
      {notices.length === 0 ? (
        <p className="text-sm text-soft">{none}</p>
      ) : (
        <ul className="divide-y divide-line border-y border-line">
          {notices.slice(0, 50).map((n) => (
            <Row key={`${n.ruleId} ${n.postId}`} site={site} notice={n} />
          ))}
        </ul>
      )}
      {notices.length > 50 && <p className="mt-1 text-xs text-soft">and {notices.length - 50} more.</p>}
    </section>
  );
}

function Row({ site, notice: n }: { site: string; notice: Notice }) {
  return (
    <li className="flex flex-wrap items-center gap-x-3 gap-y-1 py-1.5 text-sm">
      <div className="min-w-0 flex-1">
        <Link to={`/${site}/write/${n.postId}`} className="block truncate font-medium">
          {n.title}
        </Link>
        <span className="text-xs text-soft">
          {n.rule}, on {shownDate(n.dueOn.date)} or later
        </span>
      </div>
      {n.kind === "republish" ? (
        <Confirm site={site} notice={n} />
      ) : (
        <Link
          to={`/${site}/notice/${n.postId}/${n.ruleId}`}
          className="text-sm underline underline-offset-2"
          aria-label={`Keep “${n.title}” longer`}
        >
          Keep it longer
        </Link>
      )}
    </li>
  );
}

/** Says that a post may come out again. */
export function Confirm({ site, notice: n }: { site: string; notice: Notice }) {
  const planner = usePlanner(site);
  const deeds = useUpkeepDeeds(site);
  const say = useSay();
  if (n.read) return <span className="text-again">It may come out</span>;
  if (!planner) return null;
  return (
    <Button
      disabled={deeds.confirm.isPending}
      aria-label={`It may come out: “${n.title}”`}
      onClick={() =>
        deeds.confirm
          .mutateAsync({ rule: n.ruleId, post: n.postId })
          .then(() => say.done(`“${n.title}” may come out again.`), say.trouble)
      }
    >
      It may come out
    </Button>
  );
}
