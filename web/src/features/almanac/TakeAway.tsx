import { Menu, MenuButton, MenuItem, MenuItems } from "@headlessui/react";
import { Share } from "lucide-react";
import { Link } from "react-router";
import { useCommands } from "../../ui/commands";

/** Takes the shown stretch of the plan elsewhere: on paper, as a table, into a calendar program. */
export function TakeAway({ site, first, days }: { site: string; first: string; days: number }) {
  const csv = `/api/v1/sites/${site}/plan.csv?from=${first}&days=${days}`;
  useCommands([
    { name: "Print", group: "Almanac", run: () => window.print() },
    { name: "As a table (CSV)", group: "Almanac", run: () => window.location.assign(csv) },
  ]);
  const item = "flex h-8 w-full items-center px-3 text-left data-focus:bg-sunk";
  return (
    <Menu as="div" className="relative">
      <MenuButton
        aria-label="Print or export"
        title="Print, table, calendar"
        className="inline-flex size-7 items-center justify-center rounded-md text-soft data-hover:bg-sunk data-hover:text-ink"
      >
        <Share size={14} />
      </MenuButton>
      <MenuItems
        modal={false}
        className="absolute top-full right-0 z-30 mt-1 min-w-52 rounded-md border border-strong bg-sheet py-1 shadow-lifted"
      >
        <MenuItem>
          <button type="button" className={item} onClick={() => window.print()}>
            Print
          </button>
        </MenuItem>
        <MenuItem>
          <a href={csv} className={item}>
            As a table (CSV)
          </a>
        </MenuItem>
        <MenuItem>
          <Link to={`/${site}/account`} className={item}>
            In a calendar program…
          </Link>
        </MenuItem>
      </MenuItems>
    </Menu>
  );
}
