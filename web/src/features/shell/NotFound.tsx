import { Link, useParams } from "react-router";
import type { Me } from "../session/session";

/** For an address at which there is nothing: says so, and leads on. */
export function NotFound({ me }: { me: Me }) {
  const { site = "" } = useParams();
  const mine = me.sites.find((s) => s.slug === site);
  const link = "underline underline-offset-2";
  return (
    <main className="mx-auto mt-20 w-full max-w-lg px-5">
      <h1 className="mb-2 font-title text-2xl">There is no such page</h1>
      {mine ? (
        <>
          <p className="mb-4 text-soft">
            The address may be mistyped, or what was here may have been deleted.
          </p>
          <ul className="space-y-1.5">
            <li>
              <Link to={`/${mine.slug}`} className={link}>
                The Almanac of {mine.title}
              </Link>
            </li>
            <li>
              <Link to={`/${mine.slug}/posts`} className={link}>
                Find a post
              </Link>
            </li>
            <li>
              <Link to={`/${mine.slug}/logbook`} className={link}>
                Look for it in the logbook
              </Link>
            </li>
          </ul>
        </>
      ) : (
        <>
          <p className="mb-4 text-soft">
            {site ? `You have no blog named “${site}”. ` : ""}These are the blogs you work on:
          </p>
          <ul className="space-y-1.5">
            {me.sites.map((s) => (
              <li key={s.slug}>
                <Link to={`/${s.slug}`} className={link}>
                  {s.title}
                </Link>
              </li>
            ))}
          </ul>
        </>
      )}
    </main>
  );
}
