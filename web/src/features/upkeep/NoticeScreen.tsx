import { Link, useParams } from "react-router";
import { shownDate } from "../../ui/siteClock";
import { Trouble } from "../../ui/Trouble";
import { Waiting } from "../../ui/Waiting";
import { Confirm } from "./NoticeLists";
import { Keep, PostUpkeep } from "./PostUpkeep";
import { usePostUpkeep } from "./upkeep";

/** Where a mail about a post leads: what a rule is about to do, and what one can answer. */
export default function NoticeScreen() {
  const { site = "", post = "", rule = "" } = useParams();
  const upkeep = usePostUpkeep(site, Number(post));
  if (upkeep.isPending) return <Waiting what="the post" />;
  if (upkeep.error) return <Trouble error={upkeep.error} retry={() => void upkeep.refetch()} />;
  const notice = upkeep.data.notices.find((n) => n.ruleId === Number(rule));
  const again = notice?.kind === "republish";
  return (
    <main className="mx-auto w-full max-w-2xl px-5 pt-6 pb-12">
      <h1 className="mb-1 font-title text-2xl">{upkeep.data.title}</h1>
      <p className="mb-4 text-sm">
        <Link to={`/${site}/write/${post}`} className="underline underline-offset-2">
          {again ? "Read the post" : "Open the post"}
        </Link>
      </p>
      {notice ? (
        <p className="mb-4">
          The rule{" "}
          <Link to={`/${site}/rules/${rule}`} className="underline underline-offset-2">
            {notice.rule}
          </Link>{" "}
          {again ? "wants to bring it out again" : "is about to make it expire"} on{" "}
          <span className="font-semibold">{shownDate(notice.dueOn.date)}</span> or later.
        </p>
      ) : (
        <p className="mb-4 text-soft">
          The rule no longer has anything to do with this post: it was kept, changed, or has had its turn.
        </p>
      )}
      {again ? (
        <Confirm site={site} notice={notice} />
      ) : (
        <section aria-label="Keep it" className="text-sm">
          <Keep site={site} id={Number(post)} upkeep={upkeep.data} />
        </section>
      )}
      <h2 className="mt-8 mb-2 text-base font-semibold">What becomes of it</h2>
      <PostUpkeep site={site} id={Number(post)} bare />
    </main>
  );
}
