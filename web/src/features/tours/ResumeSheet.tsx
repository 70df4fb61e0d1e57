import { useState } from "react";
import { Button } from "../../ui/Button";
import { Segments } from "../../ui/Segments";
import { Sheet } from "../../ui/Sheet";
import { shownPlace } from "../../ui/siteClock";
import { useSay } from "../../ui/toast";
import { Warning } from "../../ui/Trouble";
import { useTell } from "../logbook/useTell";
import { counted, useResuming, useTourDeeds, type How, type Tour } from "./tours";

const ways = [
  { value: "shift" as const, name: "Move all that is to come on" },
  { value: "skip" as const, name: "Leave out what was missed" },
];

/** Shows what a paused tour does once it is resumed, before it is. */
export function ResumeSheet({ site, tour, onClose }: { site: string; tour: Tour; onClose: () => void }) {
  const [how, setHow] = useState<How>("shift");
  const look = useResuming(site, tour, how);
  const { resume } = useTourDeeds(site);
  const say = useSay();
  const tell = useTell(site);
  const coming = (look.data?.series ?? []).filter((s) => s.messages.some((m) => m.state === ""));
  const problems = look.data?.problems ?? [];
  const go = () =>
    resume.mutateAsync({ id: tour.id, version: tour.version, how }).then(() => {
      tell("Tour resumed.");
      onClose();
    }, say.trouble);
  return (
    <Sheet
      open
      onClose={onClose}
      title="Resume the tour"
      actions={
        <>
          <Button onClick={onClose}>Cancel</Button>
          <Button
            look="main"
            disabled={resume.isPending || !look.data || problems.length > 0}
            onClick={() => void go()}
          >
            Resume with {counted(coming.length, "stop")}
          </Button>
        </>
      }
    >
      <Segments label="What becomes of missed stops" options={ways} value={how} onChange={setHow} />
      {look.error && <Warning>{look.error.message}</Warning>}
      {problems[0] && <Warning>{problems[0].message}</Warning>}
      <ol className="mt-3 columns-2 gap-6 text-sm">
        {coming.map((s) => (
          <li key={s.n} className="flex gap-3 py-0.5">
            <span className="w-6 text-right text-soft tabular-nums">{s.n}</span>
            {s.at && shownPlace(s.at)}
          </li>
        ))}
      </ol>
    </Sheet>
  );
}
