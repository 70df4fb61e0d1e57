import { Menu, MenuButton, MenuItem, MenuItems } from "@headlessui/react";
import { ChevronDown } from "lucide-react";
import { useNavigate } from "react-router";
import { Choice } from "../../ui/Choice";
import { clock, minutesOf } from "../../ui/civil";
import { offerOf } from "../rhythm/offered";
import { asKind, newOpening, useBeginning } from "../rhythm/rhythm";
import { useRules } from "../rules/rules";
import { one, type Best, type Results } from "./results";
import { WeekMap } from "./WeekMap";

type Props = { site: string; results: Results; onZone: (zone: string) => void };

/** When an outing brings most: the map of the week, and its best hours, to be taken as openings. */
export function BestHours({ site, results: r, onZone }: Props) {
  return (
    <section aria-label="Best hours" className="mt-7 break-inside-avoid">
      <div className="flex flex-wrap items-end gap-3">
        <div>
          <h2 className="text-base font-semibold">Best hours</h2>
          <p className="max-w-3xl text-sm text-soft">
            Clicks an outing by when it went out, smoothed over neighbouring hours: the darker the more. Of
            dotted hours too little is known.
          </p>
        </div>
        {r.zones.length > 1 && (
          <div className="ml-auto w-56 print:hidden">
            <Choice
              label="By the clocks of"
              value={r.zone}
              options={r.zones.map((zone, i) => ({
                value: zone,
                name: zone.replaceAll("_", " ") + (i === 0 ? " (the blog)" : ""),
              }))}
              onChange={(zone) => onZone(zone === r.zones[0] ? "" : zone)}
            />
          </div>
        )}
      </div>
      <WeekMap hours={r.hours} zone={r.zone} />
      {r.best.length > 0 ? (
        <div className="mt-2 flex flex-wrap items-start gap-3 text-sm">
          <div>
            <p>{r.best[0]!.sure ? "Better than the usual hour:" : "Best so far, but not sure yet:"}</p>
            <ul className="list-disc pl-5">
              {r.best.map((b) => (
                <li key={`${b.days}${b.from}`}>
                  {b.days}, {clock(minutesOf(b.from))} to {clock(minutesOf(b.to))}: about {one(b.times)} times
                  the usual clicks ({b.outings} {b.outings === 1 ? "outing" : "outings"})
                </li>
              ))}
            </ul>
          </div>
          <span className="ml-auto print:hidden">
            <UseThem site={site} best={r.best} zone={r.zone === r.zones[0] ? undefined : r.zone} />
          </span>
        </div>
      ) : (
        <p className="mt-2 text-sm text-soft">No hour stands out yet.</p>
      )}
    </section>
  );
}

type UseThemProps = { site: string; best: Best[]; zone?: string };

/** Offers the best hours to a rule that shares, or to the rhythm, as openings. They are only filled in there. */
function UseThem({ site, best, zone }: UseThemProps) {
  const begin = useBeginning(site);
  const rules = useRules(site).data?.rules.filter((r) => r.kind === "reshare") ?? [];
  const navigate = useNavigate();
  const go = (path: string) => {
    if (!begin) return;
    const openings = best.map((b) => ({
      ...asKind(newOpening(begin), "window", begin),
      weekdays: b.weekdays,
      from: b.from,
      to: b.to,
      count: 1,
      zone,
    }));
    void navigate(`/${site}/${path}`, { state: offerOf(openings) });
  };
  const item = "flex min-h-8 w-full items-center px-3 py-1 text-left data-focus:bg-sunk";
  return (
    <Menu as="div" className="relative">
      <MenuButton
        disabled={!begin}
        className="inline-flex h-8 items-center gap-1.5 rounded-md border border-strong bg-sheet px-3 data-hover:bg-sunk"
      >
        Use these hours <ChevronDown size={14} aria-hidden />
      </MenuButton>
      <MenuItems
        modal={false}
        anchor="bottom end"
        className="z-50 max-w-80 min-w-56 rounded-md border border-strong bg-sheet py-1 text-sm shadow-lifted [--anchor-gap:4px]"
      >
        {rules.map((r) => (
          <MenuItem key={r.id}>
            <button type="button" className={item} onClick={() => go(`rules/${r.id}`)}>
              As the times of “{r.name}”
            </button>
          </MenuItem>
        ))}
        <MenuItem>
          <button type="button" className={item} onClick={() => go("rules/new/reshare")}>
            As the times of a new rule
          </button>
        </MenuItem>
        <MenuItem>
          <button type="button" className={item} onClick={() => go("rhythm")}>
            As more openings of the rhythm
          </button>
        </MenuItem>
      </MenuItems>
    </Menu>
  );
}
