import { Link, useNavigate, useParams } from "react-router";
import { Button } from "../../ui/Button";
import { useSay } from "../../ui/toast";
import { Trouble, Warning } from "../../ui/Trouble";
import { Waiting } from "../../ui/Waiting";
import { usePlanner } from "../session/session";
import { LeftFiles } from "./LeftFiles";
import { Lines } from "./Lines";
import { Progress } from "./Progress";
import { Proposal } from "./Proposal";
import { Result } from "./Result";
import { SetupScreen } from "./SetupScreen";
import { isOver, said, useImport, useImportDeeds, type WholeImport } from "./imports";
import { useState } from "react";
import { useStill } from "../../ui/useStill";

/** One import, from its files to its posts. */
export default function ImportScreen() {
  const { site = "", id = "" } = useParams();
  const whole = useImport(site, Number(id));
  if (whole.isPending) return <Waiting what="the import" />;
  if (whole.error) return <Trouble error={whole.error} retry={() => void whole.refetch()} />;
  return <Whole key={id} site={site} of={whole.data} />;
}

function Whole({ site, of: i }: { site: string; of: WholeImport }) {
  const editor = usePlanner(site);
  const [changing, setChanging] = useState(false);
  const { mark, name } = said[i.state];
  const beginning = i.state === "collecting" || (i.state === "failed" && !i.begun);
  const settingUp = editor && (beginning || (changing && i.state === "proposed"));
  return (
    <main className={`mx-auto w-full px-5 pt-4 pb-12 ${settingUp ? "max-w-7xl" : "max-w-5xl"}`}>
      <p className="text-sm">
        <Link to={`/${site}/import`} className="text-soft underline-offset-2 hover:underline">
          Import
        </Link>
      </p>
      <div className="mb-3 flex flex-wrap items-baseline gap-x-4">
        <h1 className="font-title text-2xl wrap-anywhere">{i.source}</h1>
        <p className={`text-sm ${i.state === "failed" ? "font-semibold text-madder" : "text-soft"}`}>
          <span aria-hidden>{mark}</span> {name}
        </p>
        <Remove site={site} of={i} />
      </div>
      {i.problem && (
        <div className="mb-3">
          <Warning>{i.problem}</Warning>
        </div>
      )}
      {settingUp ? (
        <SetupScreen site={site} of={i} onRead={() => setChanging(false)} />
      ) : (
        <>
          {(i.state === "reading" ||
            i.state === "landing" ||
            i.state === "undoing" ||
            i.state === "paused") && <Progress site={site} of={i} />}
          {i.state === "proposed" && <Proposal site={site} of={i} onChange={() => setChanging(true)} />}
          {isOver(i) && i.begun && <Result site={site} of={i} />}
          {i.state !== "reading" && <Lines site={site} of={i} />}
        </>
      )}
      {!settingUp && <LeftFiles left={i.leftFiles} />}
    </main>
  );
}

function Remove({ site, of: i }: { site: string; of: WholeImport }) {
  const navigate = useNavigate();
  const say = useSay();
  const { remove } = useImportDeeds(site);
  const isStill = useStill();
  const [asking, setAsking] = useState(false);
  if (i.state === "landing" || i.state === "undoing" || (i.state === "paused" && i.begun)) return null;
  const kept = i.begun
    ? "Its posts stay; the import can no longer be undone."
    : "Nothing of it has been brought in.";
  const go = () =>
    remove.mutate(i.id, {
      onSuccess: () => isStill() && void navigate(`/${site}/import`),
      onError: say.trouble,
    });
  return (
    <div className="ml-auto flex items-center gap-2 text-sm">
      {asking ? (
        <>
          <span className="text-soft">Delete this import and its log? {kept}</span>
          <Button look="trouble" disabled={remove.isPending} onClick={go}>
            Delete
          </Button>
          <Button look="quiet" onClick={() => setAsking(false)}>
            Cancel
          </Button>
        </>
      ) : (
        <Button look="quiet" onClick={() => setAsking(true)}>
          Delete…
        </Button>
      )}
    </div>
  );
}
