import { Menu, MenuButton, MenuItem, MenuItems } from "@headlessui/react";
import { ExternalLink, UserRound } from "lucide-react";
import { NavLink, Outlet, useParams } from "react-router";
import { useLive } from "../../api/live";
import { applyTheme, type Theme } from "../../ui/theme";
import { Trouble } from "../../ui/Trouble";
import { useSignOut, type Me } from "../session/session";
import { NewDraft } from "./NewDraft";
import { Notices } from "./Notices";
import { SiteTime } from "./SiteTime";

/** The frame round every screen of a site. */
export function Shell({ me }: { me: Me }) {
  const { site = "" } = useParams();
  const mine = me.sites.find((s) => s.slug === site);
  if (!mine) return <Trouble error={new Error("There is no blog of yours at this address.")} />;
  return <SiteFrame me={me} site={mine} />;
}

function SiteFrame({ me, site }: { me: Me; site: Me["sites"][number] }) {
  useLive(site.slug);
  return (
    <div className="flex min-h-screen flex-col">
      <header className="flex h-13 shrink-0 items-center gap-6 border-b border-line bg-sheet px-5">
        <NavLink to={`/${site.slug}`} end className="font-title text-xl font-medium">
          {site.title}
        </NavLink>
        <nav aria-label="Screens" className="flex h-full gap-5">
          <ScreenLink to={`/${site.slug}`} end name="Almanac" />
          <ScreenLink to={`/${site.slug}/rhythm`} name="Rhythm" />
          <ScreenLink to={`/${site.slug}/rules`} name="Rules" />
          <ScreenLink to={`/${site.slug}/forecast`} name="Forecast" />
          <ScreenLink to={`/${site.slug}/logbook`} name="Logbook" />
          <ScreenLink to={`/${site.slug}/settings`} name="Settings" />
          <a
            href={`/blog/${site.slug}/`}
            target="_blank"
            rel="noreferrer"
            className="flex items-center gap-1 text-sm text-soft hover:text-ink"
          >
            Blog <ExternalLink size={12} aria-label="opens in a new tab" />
          </a>
        </nav>
        <div className="ml-auto flex items-center gap-4">
          <SiteTime site={site.slug} />
          <NewDraft site={site.slug} />
          <PersonMenu me={me} />
        </div>
      </header>
      <Notices site={site.slug} zone={site.zone} />
      <Outlet />
    </div>
  );
}

function ScreenLink({ to, name, end = false }: { to: string; name: string; end?: boolean }) {
  return (
    <NavLink
      to={to}
      end={end}
      className={({ isActive }) =>
        `flex items-center border-b-2 pt-0.5 text-sm ${isActive ? "border-ink font-semibold" : "border-transparent text-soft hover:text-ink"}`
      }
    >
      {name}
    </NavLink>
  );
}

const themes: { theme: Theme; name: string }[] = [
  { theme: "light", name: "Light" },
  { theme: "dark", name: "Dark" },
  { theme: "system", name: "As the system" },
];

function PersonMenu({ me }: { me: Me }) {
  const signOut = useSignOut();
  const item = "flex h-8 w-full items-center px-3 text-left text-base data-focus:bg-sunk";
  return (
    <Menu>
      <MenuButton
        aria-label={`${me.name}: appearance and sign-out`}
        className="inline-flex size-8 items-center justify-center rounded-md border border-strong text-soft data-hover:text-ink"
      >
        <UserRound size={16} />
      </MenuButton>
      <MenuItems
        anchor="bottom end"
        className="z-50 w-52 rounded-md border border-strong bg-sheet py-1 shadow-lifted [--anchor-gap:4px]"
      >
        <p className="truncate px-3 py-1.5 text-sm text-soft">{me.name}</p>
        {themes.map(({ theme, name }) => (
          <MenuItem key={theme}>
            <button type="button" className={item} onClick={() => applyTheme(theme)}>
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
