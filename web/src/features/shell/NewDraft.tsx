import { PenLine } from "lucide-react";
import { useNavigate } from "react-router";
import { Button } from "../../ui/Button";
import { useSay } from "../../ui/toast";
import { useBegin } from "../editor/editor";

export function NewDraft({ site }: { site: string }) {
  const begin = useBegin(site);
  const navigate = useNavigate();
  const say = useSay();
  return (
    <Button
      icon={<PenLine size={14} />}
      disabled={begin.isPending}
      onClick={() =>
        begin.mutate(undefined, {
          onSuccess: (post) => void navigate(`/${site}/write/${post.id}`),
          onError: say.trouble,
        })
      }
    >
      New draft
    </Button>
  );
}
