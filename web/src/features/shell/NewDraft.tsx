import { PenLine } from "lucide-react";
import { useNavigate } from "react-router";
import { Button } from "../../ui/Button";
import { useCommands } from "../../ui/commands";

export function NewDraft({ site }: { site: string }) {
  const navigate = useNavigate();
  const start = () => void navigate(`/${site}/write/new`);
  useCommands([{ name: "New draft", group: "Do", keys: "n", run: start }]);
  return (
    <Button icon={<PenLine size={14} />} onClick={start}>
      <span className="max-xl:sr-only">New draft</span>
    </Button>
  );
}
