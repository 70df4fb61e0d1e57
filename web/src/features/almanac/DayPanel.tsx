import { clock } from "../../ui/civil";
import { Warning } from "../../ui/Trouble";
import { clocksWords, type AlmanacDay } from "../plan/almanac";
import { Meters } from "../tape/Meters";
import { Panel } from "./Panel";
import { shownDate } from "../../ui/siteClock";

/** One day: what is planned, what is free, and what has no room. */
export function DayPanel({
  day,
  onPost,
  onClose,
}: {
  day: AlmanacDay;
  onPost: (id: number) => void;
  onClose: () => void;
}) {
  const planned = [
    ...day.entries.map((e) => ({
      ...e,
      word: e.status === "published" ? "out" : e.held ? "held" : e.pinned ? "pinned" : "scheduled",
    })),
    ...day.ghosts.map((g) => ({ ...g, word: "proposed" })),
  ].sort((a, b) => a.minute - b.minute);
  return (
    <Panel title="Day" onClose={onClose}>
      <p className="font-title text-xl">{shownDate(day.date)}</p>
      {day.rest && (
        <p className="text-sm text-again">Rest day{day.rest === "Rest day" ? "" : `: ${day.rest}`}</p>
      )}
      {day.season && <p className="text-sm text-soft">The season “{day.season}” holds.</p>}
      {day.clocks && <p className="text-sm text-away">{clocksWords(day.clocks)}</p>}
      {day.short.map((s) => (
        <Warning key={s}>{s}</Warning>
      ))}
      <section>
        <h3 className="text-sm font-semibold">Planned</h3>
        {planned.length === 0 && <p className="text-sm text-soft">Nothing yet.</p>}
        <ul className="-mx-2">
          {planned.map((p) => (
            <li key={p.id}>
              <button
                type="button"
                onClick={() => onPost(p.id)}
                className="w-full rounded-md px-2 py-1 text-left text-sm hover:bg-sunk"
              >
                <span className="font-semibold">{clock(p.minute)}</span>{" "}
                <span className="text-soft">{p.word}</span>
                <span className="block">{p.title}</span>
              </button>
            </li>
          ))}
        </ul>
      </section>
      <Meters meters={day.meters} />
      <section>
        <h3 className="text-sm font-semibold">Free slots</h3>
        <p className="text-sm text-soft">
          {day.free.length > 0
            ? day.free.map((f) => clock(f.minute)).join(", ")
            : day.openings.length > 0
              ? "None left."
              : "The rhythm has no opening on this day."}
        </p>
      </section>
    </Panel>
  );
}
