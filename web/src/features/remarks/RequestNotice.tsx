import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { shownPlace } from "../../ui/siteClock";
import { useSay } from "../../ui/toast";
import { Answers } from "./Remarks";

/** A contributor asks whether a post may come out at a time; yes or no answers it. */
export function RequestNotice({ site, request }: { site: string; request: Schemas["Request"] }) {
  const say = useSay();
  return (
    <span className="flex flex-wrap items-center gap-2">
      <span>
        {request.by || "Somebody"} asks: may{" "}
        <Link to={`/${site}/write/${request.post}`} className="underline underline-offset-2">
          {request.title || "Untitled"}
        </Link>{" "}
        come out on {shownPlace(request.wish)}?
      </span>
      <Answers site={site} post={request.post} remark={request.id} said={() => say.done("Answered.")} />
    </span>
  );
}
