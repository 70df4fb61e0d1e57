import { Route } from "lucide-react";
import { useNavigate } from "react-router";
import { Button } from "../../ui/Button";
import { useSay } from "../../ui/toast";
import { useTourDeeds } from "./tours";

/** Begins a tour of a post that is out, and goes there. Nothing is planned by that. */
export function BeginTour({ site, post }: { site: string; post: number }) {
  const navigate = useNavigate();
  const say = useSay();
  const { begin } = useTourDeeds(site);
  return (
    <Button
      icon={<Route size={14} />}
      disabled={begin.isPending}
      onClick={() =>
        void begin
          .mutateAsync({ postIds: [post] })
          .then(({ ids }) => void navigate(`/${site}/tours/${ids[0]}`), say.trouble)
      }
    >
      Begin a tour
    </Button>
  );
}
