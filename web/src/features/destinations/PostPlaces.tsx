import { Link } from "react-router";
import { Fold } from "../../ui/Fold";
import { shownPlace } from "../../ui/siteClock";
import { Place } from "./CopiesSheet";
import { usePlaces } from "./destinations";

/** Where a post is beside the built-in pages, and what kept it from getting there. */
export function PostPlaces({ site, post }: { site: string; post: number }) {
  const places = usePlaces(site, post);
  if (!places.data?.length) return null;
  const troubled = places.data.filter((p) => p.error);
  return (
    <Fold
      title="Where it is"
      summary={
        troubled.length > 0
          ? `! Not at ${troubled.map((p) => p.name).join(", ")}`
          : places.data.map((p) => p.name).join(", ")
      }
      trouble={troubled.length > 0}
      open={troubled.length > 0}
    >
      <ul className="space-y-1.5">
        {places.data.map((p) => (
          <li key={p.destination} className="text-sm">
            <Link
              to={`/${site}/settings/destinations`}
              className="font-semibold underline-offset-2 hover:underline"
            >
              {p.name}
            </Link>
            {p.error ? (
              <p role="alert" className="text-madder">
                ! {p.error}
                {p.next && ` Tried again ${shownPlace(p.next)}.`}
              </p>
            ) : (
              <p className="text-xs wrap-anywhere text-soft">
                {p.waiting ? "◔ On its way" : p.state === "there" ? <Place copy={p} /> : "Removed there"}
              </p>
            )}
          </li>
        ))}
      </ul>
    </Fold>
  );
}
