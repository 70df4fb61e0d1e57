import { Link } from "react-router";
import { Button } from "../../ui/Button";
import { usePlanner } from "../session/session";
import type { Results } from "./results";

type Props = {
  site: string;
  results: Results;
  onTour: (posts: { id: number; title: string }[]) => void;
};

/** Posts that are out and that no message ever was about. */
export function Never({ site, results: r, onTour }: Props) {
  const planner = usePlanner(site);
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
          {planner && (
            <p className="mb-2 flex flex-wrap gap-2 print:hidden">
              <Button onClick={() => onTour(r.never)}>Tours of these…</Button>
              <Link
                to={`/${site}/rules/new/reshare`}
                className="inline-flex h-8 items-center rounded-md border border-strong bg-sheet px-3 text-sm hover:bg-sunk"
              >
                A rule that shares them…
              </Link>
            </p>
          )}
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
