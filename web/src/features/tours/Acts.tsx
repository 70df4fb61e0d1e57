import { Menu, MenuButton, MenuItem, MenuItems } from "@headlessui/react";
import { Ellipsis, Pause, Play, Square } from "lucide-react";
import { useState } from "react";
import { useNavigate } from "react-router";
import { Button } from "../../ui/Button";
import { useSay } from "../../ui/toast";
import { useTell } from "../logbook/useTell";
import { KeepTemplate } from "./KeepTemplate";
import { NewTourSheet } from "./NewTourSheet";
import { ResumeSheet } from "./ResumeSheet";
import { useTourDeeds, type Tour } from "./tours";

const item = "flex h-8 w-full items-center px-3 text-left data-focus:bg-sunk data-disabled:text-faint";

/** What can be done with a tour, by how far it has got. */
export function Acts({
  site,
  tour,
  changed,
  children,
}: {
  site: string;
  tour: Tour;
  changed: boolean;
  children: React.ReactNode;
}) {
  const deeds = useTourDeeds(site);
  const navigate = useNavigate();
  const say = useSay();
  const tell = useTell(site);
  const [open, setOpen] = useState<"resume" | "like" | "keep">();
  const seen = { id: tour.id, version: tour.version };
  const idle = !deeds.pause.isPending && !deeds.end.isPending && !deeds.remove.isPending;
  const goes = tour.state === "running" || tour.state === "paused";
  return (
    <>
      <Menu as="div" className="relative">
        <MenuButton className="inline-flex h-8 items-center gap-1.5 rounded-md px-3 text-sm text-soft data-hover:bg-sunk data-hover:text-ink">
          <Ellipsis size={14} aria-hidden /> More
        </MenuButton>
        <MenuItems
          modal={false}
          anchor="bottom end"
          className="z-50 min-w-52 rounded-md border border-strong bg-sheet py-1 text-sm shadow-lifted [--anchor-gap:4px]"
        >
          <MenuItem>
            <button type="button" className={item} onClick={() => setOpen("like")}>
              Copy to another post…
            </button>
          </MenuItem>
          <MenuItem>
            <button type="button" className={item} onClick={() => setOpen("keep")}>
              Keep as a template…
            </button>
          </MenuItem>
          {!goes && (
            <MenuItem disabled={!idle}>
              <button
                type="button"
                className={item}
                onClick={() =>
                  void deeds.remove.mutateAsync(seen).then(() => {
                    say.done("Tour deleted. What it sent stays.");
                    void navigate(`/${site}/tours`);
                  }, say.trouble)
                }
              >
                Delete
              </button>
            </MenuItem>
          )}
        </MenuItems>
      </Menu>
      {goes && (
        <Button
          icon={<Square size={14} />}
          disabled={!idle}
          onClick={() => void deeds.end.mutateAsync(seen).then(() => tell("Tour ended."), say.trouble)}
        >
          End
        </Button>
      )}
      {tour.state === "running" && (
        <Button
          icon={<Pause size={14} />}
          disabled={!idle}
          onClick={() => void deeds.pause.mutateAsync(seen).then(() => tell("Tour paused."), say.trouble)}
        >
          Pause
        </Button>
      )}
      {children}
      {tour.state === "paused" && (
        <Button look="main" icon={<Play size={14} />} disabled={changed} onClick={() => setOpen("resume")}>
          Resume…
        </Button>
      )}
      {open === "resume" && <ResumeSheet site={site} tour={tour} onClose={() => setOpen(undefined)} />}
      {open === "keep" && <KeepTemplate site={site} tour={tour} onClose={() => setOpen(undefined)} />}
      {open === "like" && (
        <NewTourSheet
          site={site}
          like={{ id: tour.id, name: tour.name }}
          onClose={() => setOpen(undefined)}
        />
      )}
    </>
  );
}
