import { Eye } from "lucide-react";
import { useNavigate } from "react-router";
import { Button } from "../../ui/Button";
import { zoneCity } from "../../ui/civil";
import { DateField } from "../../ui/DateField";
import { Tick } from "../../ui/Tick";
import { siteZone } from "../../ui/siteClock";
import { TimeField } from "../../ui/TimeField";
import { useSay } from "../../ui/toast";
import { isDate, isTime } from "../../ui/typed";
import { useTell } from "../logbook/useTell";
import { makePreview, usePreviewTab } from "../post/previewLink";
import { Differences } from "../revisions/Differences";
import { useEditDeeds, type WholeEdit } from "../revisions/timed";
import { useStill } from "../../ui/useStill";

type When = { date: string; clock: string; yearly: boolean };

type Props = {
  site: string;
  post: number;
  edit: WholeEdit | undefined;
  when: When;
  wrong: (field: string) => string | undefined;
  busy: boolean;
  onChange: (more: Partial<When>) => void;
  onKeep: () => void;
};

/** When a prepared change replaces what its post says, and what else is done with it. */
export function TimeOfEdit({ site, post, edit, when, wrong, busy, onChange, onKeep }: Props) {
  const over = edit && edit.state !== "waiting" && edit.state !== "held";
  if (over)
    return (
      <section aria-label="When" className="space-y-2 rounded-md border border-line bg-sheet p-3 text-sm">
        <p>This edit was {edit.state}. The post’s history has what it said.</p>
      </section>
    );
  return (
    <section aria-label="When" className="space-y-2 rounded-md border border-line bg-sheet p-3 text-sm">
      <DateField
        label="Apply on"
        value={when.date}
        error={wrong("at")}
        onChange={(date) => onChange({ date })}
      />
      <TimeField
        label={`Time in ${zoneCity(siteZone())}`}
        value={when.clock}
        onChange={(clock) => onChange({ clock })}
      />
      <Tick label="Again every year" on={when.yearly} onChange={(yearly) => onChange({ yearly })} />
      {when.yearly && (
        <p className="text-xs text-soft">
          {"{year}"} in title, text, excerpt and fields becomes the year of that date.
        </p>
      )}
      {wrong("post") && (
        <p role="alert" className="text-madder">
          {wrong("post")}
        </p>
      )}
      <div className="flex flex-wrap gap-2">
        <Button look="main" disabled={busy || !isDate(when.date) || !isTime(when.clock)} onClick={onKeep}>
          {edit ? "Save" : "Prepare it"}
        </Button>
        {edit && <Kept site={site} post={post} edit={edit} />}
      </div>
      {edit && (
        <div className="border-t border-line pt-2">
          <p className="mb-2 font-semibold">What it changes, as saved</p>
          <div className="max-h-96 overflow-y-auto">
            {edit.differences.length === 0 && edit.clashes.length > 0 ? (
              <p className="text-soft">Nothing until you settle where it clashes.</p>
            ) : (
              <Differences all={edit.differences} />
            )}
          </div>
        </div>
      )}
    </section>
  );
}

/** What is done with an edit that is kept. */
function Kept({ site, post, edit }: { site: string; post: number; edit: WholeEdit }) {
  const { apply, drop } = useEditDeeds(site);
  const open = usePreviewTab();
  const say = useSay();
  const tell = useTell(site);
  const navigate = useNavigate();
  const isStill = useStill();
  const seen = { id: edit.id, version: edit.version };
  const done = (said: string) => ({
    onSuccess: () => {
      tell(said);
      if (isStill()) void navigate(`/${site}/write/${post}`);
    },
    onError: say.trouble,
  });

  return (
    <>
      <Button icon={<Eye size={14} />} onClick={() => void open(() => makePreview(site, post, 1, edit.id))}>
        Preview
      </Button>
      {!edit.yearly && edit.clashes.length === 0 && (
        <Button
          disabled={apply.isPending}
          onClick={() => apply.mutate(seen, done("The post is changed within a moment."))}
        >
          Apply now
        </Button>
      )}
      <Button
        look="quiet"
        disabled={drop.isPending}
        onClick={() => drop.mutate(seen, done("Dropped. The post stays as it is."))}
      >
        Drop the edit
      </Button>
    </>
  );
}
