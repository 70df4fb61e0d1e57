import { CircleHelp, ExternalLink } from "lucide-react";
import { lazy, Suspense, useEffect, useRef } from "react";
import { NavLink, Outlet, useLocation, useMatch, useNavigate, useParams } from "react-router";
import { reportFailure } from "../../api/failures";
import { useLive } from "../../api/live";
import { Boundary } from "../../ui/Boundary";
import { useCommands } from "../../ui/commands";
import { setSiteZone } from "../../ui/siteClock";
import { UnsavedGuard } from "../../ui/Unsaved";
import { placeOf, showGuide, useGuide } from "../help/help";
import type { Me } from "../session/session";
import { Skip } from "../../ui/Skip";
import { Arrival } from "./Arrival";
import { Keys } from "./Keys";
import { NotFound } from "./NotFound";
import { NewDraft } from "./NewDraft";
import { Notices } from "./Notices";
import { PersonMenu, SiteMenu } from "./PersonMenu";
import { SiteTime } from "./SiteTime";
import { themes, useTheme } from "./useTheme";

const HelpPanel = lazy(() => import("../help/HelpPanel"));

/** Which blog one was at last, in this browser. */
export const lastSite = "dapper.site";

/** The frame round every screen of a site. */
export function Shell({ me }: { me: Me }) {
  const { site = "" } = useParams();
  const mine = me.sites.find((s) => s.slug === site);
  useEffect(() => {
    if (mine) localStorage.setItem(lastSite, mine.slug);
  }, [mine]);
  if (!mine) return <NotFound me={me} />;
  return <SiteFrame me={me} site={mine} />;
}

function SiteFrame({ me, site }: { me: Me; site: Me["sites"][number] }) {
  const { pathname } = useLocation();
  setSiteZone(site.zone); // before anything below asks what day it is
  useLive(site.slug);
  useScreenCommands(me, site.slug);
  const guide = useGuide();
  const help = () => showGuide(guide ? undefined : placeOf(pathname));
  useCommands([
    { name: "Help on this screen", group: "Guide", keys: "g h", run: () => showGuide(placeOf(pathname)) },
  ]);
  return (
    <div className="flex min-h-screen flex-col">
      <Arrival title={`${screenAt(pathname)} · ${site.title}`} />
      <header className="flex min-h-13 shrink-0 flex-wrap items-center gap-x-5 border-b border-line bg-sheet px-5 max-2xl:gap-x-3.5 lg:flex-nowrap max-md:px-3 print:hidden">
        <Skip to="main" className="focus:absolute focus:top-2 focus:left-2 focus:z-50">
          Skip to the content
        </Skip>
        <SiteName site={site} sites={me.sites} />
        <nav
          aria-label="Screens"
          className="flex h-13 shrink-0 gap-2.25 2xl:gap-4 max-md:shrink max-md:order-last max-md:h-10 max-md:w-full max-md:overflow-x-auto max-md:[scrollbar-width:none]"
        >
          {screens.map((s) => (
            <ScreenLink key={s.path} to={`/${site.slug}${s.path}`} end={s.path === ""} name={s.name} />
          ))}
          <a
            href={`/blog/${site.slug}/`}
            target="_blank"
            rel="noreferrer"
            className="flex items-center gap-1 text-sm text-soft hover:text-ink"
          >
            <span className="max-2xl:sr-only max-md:not-sr-only">Blog</span>
            <ExternalLink size={14} aria-label="opens in a new tab" />
          </a>
        </nav>
        <div className="ml-auto flex h-13 items-center gap-3 max-xl:gap-2">
          <SiteTime site={site.slug} />
          <NewDraft site={site.slug} />
          <button
            type="button"
            aria-label="Help"
            title="Help"
            aria-pressed={guide !== undefined}
            onClick={help}
            className="inline-flex size-8 items-center justify-center rounded-md border border-strong text-soft hover:text-ink aria-pressed:bg-sunk"
          >
            <CircleHelp size={16} />
          </button>
          <PersonMenu me={me} site={site.slug} />
        </div>
      </header>
      <Notices site={site.slug} zone={site.zone} />
      {/* Clocks are drawn anew when they are to show other hours. */}
      <div className="flex flex-1">
        <div className="flex min-w-0 flex-1 flex-col">
          <Boundary at={pathname} onFailure={reportFailure}>
            <Outlet key={me.preferences.clock} />
          </Boundary>
        </div>
        {guide && (
          <Suspense fallback={null}>
            <HelpPanel place={guide} />
          </Suspense>
        )}
      </div>
      <Keys site={site.slug} />
      <UnsavedGuard />
    </div>
  );
}

/** The screens of a site, with the second key that shows each, after g. */
const screens = [
  { name: "Almanac", path: "", key: "a" },
  { name: "Posts", path: "/posts", key: "p" },
  { name: "Rhythm", path: "/rhythm", key: "r" },
  { name: "Rules", path: "/rules", key: "u" },
  { name: "Upkeep", path: "/upkeep", key: "k" },
  { name: "Tours", path: "/tours", key: "t" },
  { name: "Channels", path: "/channels", key: "n" },
  { name: "Forecast", path: "/forecast", key: "f" },
  { name: "Logbook", path: "/logbook", key: "l" },
  { name: "Settings", path: "/settings", key: "s" },
];

const further: Record<string, string> = {
  write: "Edit",
  overdue: "Overdue",
  results: "Results",
  prepared: "Prepared messages",
  webhooks: "Webhooks",
  comments: "Comments",
  import: "Import",
  pictures: "Pictures",
  people: "People",
  account: "Your account",
  notice: "About a post",
};

/** What the screen at an address is called. */
function screenAt(pathname: string): string {
  const [, , part = ""] = pathname.split("/");
  return screens.find((s) => s.path === (part && `/${part}`))?.name ?? further[part] ?? "No such page";
}

function useScreenCommands(me: Me, site: string) {
  const navigate = useNavigate();
  const setTheme = useTheme(me);
  const to = (path: string) => () => void navigate(path);
  useCommands([
    ...screens.map((s) => ({
      name: s.name,
      group: "Go to",
      keys: `g ${s.key}`,
      run: to(`/${site}${s.path}`),
    })),
    { name: "Overdue", group: "Go to", keys: "g o", run: to(`/${site}/overdue`) },
    { name: "Results", group: "Go to", keys: "g e", run: to(`/${site}/results`) },
    { name: "Comments", group: "Go to", keys: "g c", run: to(`/${site}/comments`) },
    { name: "Pictures", group: "Go to", keys: "g i", run: to(`/${site}/pictures`) },
    { name: "Import articles", group: "Go to", keys: "g m", run: to(`/${site}/import`) },
    { name: "People", group: "Go to", run: to(`/${site}/people`) },
    { name: "Your account", group: "Go to", run: to(`/${site}/account`) },
    ...(me.sites.some((s) => s.role === "owner")
      ? [{ name: "Add a blog", group: "Do", run: to("/new-blog") }]
      : []),
    {
      name: "The blog, as readers see it",
      group: "Go to",
      keys: "g b",
      run: () => void window.open(`/blog/${site}/`, "_blank", "noreferrer"),
    },
    ...me.sites
      .filter((s) => s.slug !== site)
      .map((s) => ({ name: s.title, group: "Go to", run: to(`/${s.slug}`) })),
    ...(me.sites.length > 1
      ? [{ name: "All blogs", group: "Go to", keys: "g y", run: to("/all-blogs") }]
      : []),
    ...themes.map(({ theme, name }) => ({ name, group: "Appearance", run: () => setTheme(theme) })),
  ]);
}

/** The blog's name; with several blogs, a menu of them. */
function SiteName({ site, sites }: { site: Me["sites"][number]; sites: Me["sites"] }) {
  const home = (
    <NavLink to={`/${site.slug}`} end className="truncate font-title text-xl font-medium">
      {site.title}
    </NavLink>
  );
  if (sites.length < 2) return home;
  return (
    <div className="flex min-w-0 items-center gap-1">
      {home}
      <SiteMenu sites={sites} here={site.slug} />
    </div>
  );
}

function ScreenLink({ to, name, end = false }: { to: string; name: string; end?: boolean }) {
  const link = useRef<HTMLAnchorElement>(null);
  const active = useMatch({ path: to, end }) !== null;
  useEffect(() => {
    if (active) link.current?.scrollIntoView({ block: "nearest", inline: "center" });
  }, [active]);
  return (
    <NavLink
      ref={link}
      to={to}
      end={end}
      className={({ isActive }) =>
        `flex shrink-0 items-center border-b-2 pt-0.5 text-sm ${isActive ? "border-ink font-semibold" : "border-transparent text-soft hover:text-ink"}`
      }
    >
      {name}
    </NavLink>
  );
}
