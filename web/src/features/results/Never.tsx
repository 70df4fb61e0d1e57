import { Link } from "react-router";
import type { Results } from "./results";

/** Posts that are out and that no message ever was about. */
export function Never({ site, results: r }: { site: string; results: Results }) {
  return (
    <section aria-label="Never shared" className="mt-7 break-inside-avoid">
      <h2 className="text-base font-semibold">Never shared</h2>
      {r.nevers === 0 ? (
        <p className="text-sm text-soft">Every post that is out has been shared.</p>
      ) : (
        <>
          <p className="mb-1 text-sm text-soft">
            {r.nevers === 1 ? "1 post that is out was" : `${r.nevers} posts that are out were`} never shared.
            The latest:
          </p>
          <ul className="text-sm md:columns-2">
            {r.never.map((p) => (
              <li key={p.id} className="py-0.5">
                <Link
                  to={`/${site}/write/${p.id}`}
                  className="block truncate underline-offset-2 hover:underline"
                >
                  {p.title || "Untitled"}
                </Link>
              </li>
            ))}
          </ul>
        </>
      )}
    </section>
  );
}
