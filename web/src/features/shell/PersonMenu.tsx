import { Menu, MenuButton, MenuItem, MenuItems } from "@headlessui/react";
import { ChevronsUpDown, UserRound } from "lucide-react";
import { Link } from "react-router";
import { useSignOut, type Me } from "../session/session";
import { themes, useTheme } from "./useTheme";

/** Leads to one's other blogs, and to all of them at once. */
export function SiteMenu({ sites, here = "" }: { sites: Me["sites"]; here?: string }) {
  return (
    <Menu as="div" className="relative">
      <MenuButton
        aria-label="Your other blogs"
        className="inline-flex size-6 shrink-0 items-center justify-center rounded-md text-soft data-hover:bg-sunk data-hover:text-ink"
      >
        <ChevronsUpDown size={14} />
      </MenuButton>
      <MenuItems
        modal={false}
        className="absolute top-full left-0 z-50 mt-1 min-w-52 rounded-md border border-strong bg-sheet py-1 shadow-lifted"
      >
        <MenuItem>
          <Link
            to="/all-blogs"
            className="mb-1 flex h-9 items-center border-b border-line px-3 data-focus:bg-sunk"
          >
            All blogs
          </Link>
        </MenuItem>
        {sites.map((s) => (
          <MenuItem key={s.slug}>
            <Link
              to={`/${s.slug}`}
              className="flex h-9 items-center justify-between gap-6 px-3 data-focus:bg-sunk"
            >
              <span className={s.slug === here ? "font-semibold" : ""}>{s.title}</span>
              <span className="text-xs text-soft">{s.archived ? "archived" : s.role}</span>
            </Link>
          </MenuItem>
        ))}
      </MenuItems>
    </Menu>
  );
}

/** The account, the people, how things look, and the way out. */
export function PersonMenu({ me, site }: { me: Me; site: string }) {
  const signOut = useSignOut();
  const setTheme = useTheme(me);
  const owner = me.sites.some((s) => s.role === "owner");
  const rule = "mb-1 border-b border-line";
  const item = "flex h-8 w-full items-center px-3 text-left text-base data-focus:bg-sunk";
  return (
    <Menu as="div" className="relative">
      <MenuButton
        aria-label={`${me.name}: account, people, appearance, sign-out`}
        className="inline-flex size-8 items-center justify-center rounded-md border border-strong text-soft data-hover:text-ink"
      >
        <UserRound size={16} />
      </MenuButton>
      <MenuItems
        modal={false}
        className="absolute top-full right-0 z-50 mt-1 w-52 rounded-md border border-strong bg-sheet py-1 shadow-lifted"
      >
        <p className="truncate px-3 py-1.5 text-sm text-soft">{me.name}</p>
        <MenuItem>
          <Link to={`/${site}/account`} className={item}>
            Your account
          </Link>
        </MenuItem>
        <MenuItem>
          <Link to={`/${site}/people`} className={`${item} ${owner ? "" : rule}`}>
            People
          </Link>
        </MenuItem>
        {owner && (
          <MenuItem>
            <Link to="/new-blog" className={`${item} ${rule}`}>
              Add a blog
            </Link>
          </MenuItem>
        )}
        {themes.map(({ theme, name }) => (
          <MenuItem key={theme}>
            <button type="button" className={item} onClick={() => setTheme(theme)}>
              {name}
            </button>
          </MenuItem>
        ))}
        <MenuItem>
          <button
            type="button"
            className={`${item} mt-1 border-t border-line`}
            onClick={() => signOut.mutate()}
          >
            Sign out
          </button>
        </MenuItem>
      </MenuItems>
    </Menu>
  );
}
