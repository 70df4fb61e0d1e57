import { useState } from "react";
import { Link } from "react-router";
import { Button } from "../../ui/Button";
import { clock, zoneCity } from "../../ui/civil";
import { Segments } from "../../ui/Segments";
import { shownDate } from "../../ui/siteClock";
import { Warning } from "../../ui/Trouble";
import { Waiting } from "../../ui/Waiting";
import { useSession } from "../session/session";
import { lasts, troubles, useBlogs, type Almanac, type Site, type Status } from "./blogs";
import { DayTape, TapeHours } from "./DayTape";

const spans = [
  { value: "1", name: "Today" },
  { value: "7", name: "Seven days" },
] as const;

/** How many blogs are shown until more are asked for. */
const atFirst = 8;

/** All blogs of a person: their tapes one above the other, and what needs somebody. */
export default function AllBlogsScreen() {
  const session = useSession();
  const [days, setDays] = useState<"1" | "7">("1");
  const [shown, setShown] = useState(atFirst);
  const all = (session.data?.sites ?? []).filter((s) => !s.archived);
  const sites = all.slice(0, shown);
  const blogs = useBlogs(sites, Number(days));
  if (session.isPending) return <Waiting what="your blogs" />;
  return (
    <main className="mx-auto w-full max-w-6xl px-5 pt-4 pb-12">
      <div className="mb-3 flex flex-wrap items-center gap-3">
        <h1 className="font-title text-2xl">All blogs</h1>
        <p className="text-sm text-soft">Each by its own clock.</p>
        <span className="ml-auto" />
        <Segments label="Days" options={spans} value={days} onChange={setDays} />
      </div>
      {sites.map((site, i) => {
        const blog = blogs[i];
        return (
          <section key={site.slug} aria-label={site.title} className="border-t border-line py-3">
            {blog?.error ? (
              <>
                <BlogName site={site} />
                <Warning>{blog.error.message}</Warning>
              </>
            ) : !blog?.data ? (
              <>
                <BlogName site={site} />
                <p className="h-16 text-sm text-soft">Loading…</p>
              </>
            ) : (
              <Blog site={site} almanac={blog.data.almanac} status={blog.data.status} />
            )}
          </section>
        );
      })}
      {all.length > shown && (
        <Button onClick={() => setShown(shown + atFirst)}>
          {`Show ${Math.min(atFirst, all.length - shown)} more of ${all.length} blogs`}
        </Button>
      )}
    </main>
  );
}

function BlogName({ site }: { site: Site }) {
  return (
    <h2 className="font-title text-lg font-medium">
      <Link to={`/${site.slug}`} className="underline-offset-2 hover:underline">
        {site.title}
      </Link>
    </h2>
  );
}

function Blog({ site, almanac, status }: { site: Site; almanac: Almanac; status: Status }) {
  const needs = troubles(site, status);
  const until = lasts(almanac.shelf);
  const n = almanac.shelf.length;
  return (
    <>
      <div className="mb-1 flex flex-wrap items-baseline gap-x-4 gap-y-1 text-sm">
        <BlogName site={site} />
        <span className="text-soft">
          {clock(almanac.now.minute)} in {zoneCity(site.zone)}
        </span>
        {almanac.paused && <span className="font-semibold text-madder">Paused: nothing comes out</span>}
        {needs.map((t) => (
          <Link key={t.text} to={t.to} className="text-madder underline underline-offset-2">
            {t.text}
          </Link>
        ))}
        <span className={`ml-auto ${n === 0 ? "text-madder" : "text-soft"}`}>
          {n === 0
            ? "The shelf is empty"
            : `${n} on the shelf${until ? `, until ${shownDate(until)}` : ", no slot is free for them"}`}
        </span>
      </div>
      <TapeHours />
      {almanac.days.map((day) => (
        <DayTape
          key={day.date}
          site={site.slug}
          day={day}
          now={day.date === almanac.now.date ? almanac.now.minute : undefined}
        />
      ))}
    </>
  );
}
