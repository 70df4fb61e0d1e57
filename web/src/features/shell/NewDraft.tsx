import { PenLine } from "lucide-react";
import { useNavigate } from "react-router";
import { Button } from "../../ui/Button";
import { useCommands } from "../../ui/commands";
import { useSay } from "../../ui/toast";
import { useBegin } from "../editor/editor";

export function NewDraft({ site }: { site: string }) {
  const begin = useBegin(site);
  const navigate = useNavigate();
  const say = useSay();
  const start = () =>
    begin.mutate(undefined, {
      onSuccess: (post) => void navigate(`/${site}/write/${post.id}`),
      onError: say.trouble,
    });
  useCommands([{ name: "New draft", group: "Do", keys: "n", run: start }]);
  return (
    <Button icon={<PenLine size={14} />} disabled={begin.isPending} onClick={start}>
      <span className="max-xl:sr-only">New draft</span>
    </Button>
  );
}
