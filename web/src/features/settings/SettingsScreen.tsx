import { Navigate, NavLink, useParams } from "react-router";
import { DestinationSettings } from "../destinations/DestinationSettings";
import { BlogSettings } from "./BlogSettings";
import { CommentSettings } from "./CommentSettings";
import { ExportSettings } from "./ExportSettings";
import { LookSettings } from "./LookSettings";
import { MenuSettings } from "./MenuSettings";
import { PlanSettings } from "./PlanSettings";
import { TagSettings } from "./TagSettings";
import { TopicSettings } from "./TopicSettings";

/** The parts of the settings, each with an address of its own. */
const parts = [
  { path: "blog", name: "Blog" },
  { path: "look", name: "Look" },
  { path: "menu", name: "Menu" },
  { path: "categories", name: "Categories" },
  { path: "tags", name: "Tags" },
  { path: "comments", name: "Comments" },
  { path: "plan", name: "Plan" },
  { path: "destinations", name: "Where posts go" },
  { path: "export", name: "Export" },
];

export default function SettingsScreen() {
  const { site = "", part } = useParams();
  if (!parts.some((p) => p.path === part)) return <Navigate to={`/${site}/settings/blog`} replace />;
  return (
    <div className="mx-auto grid w-full max-w-5xl gap-x-8 px-5 pt-4 pb-10 md:grid-cols-[9rem_1fr]">
      <nav aria-label="Settings" className="min-w-0 max-md:mb-3">
        <ul className="flex gap-1 max-md:overflow-x-auto md:flex-col">
          {[
            ...parts.map((p) => ({ ...p, to: `/${site}/settings/${p.path}` })),
            { path: "import", name: "Import", to: `/${site}/import` },
            { path: "channels", name: "Channels", to: `/${site}/channels` },
            { path: "people", name: "People", to: `/${site}/people` },
          ].map((p) => (
            <li key={p.path}>
              <NavLink
                to={p.to}
                className={({ isActive }) =>
                  `flex h-8 items-center rounded-md px-2 text-base ${isActive ? "bg-ink font-semibold text-sheet" : "text-soft hover:bg-sunk hover:text-ink"}`
                }
              >
                {p.name}
              </NavLink>
            </li>
          ))}
        </ul>
      </nav>
      <main className="min-w-0">
        {part === "blog" && <BlogSettings site={site} />}
        {part === "look" && <LookSettings site={site} />}
        {part === "menu" && <MenuSettings site={site} />}
        {part === "categories" && <TopicSettings site={site} />}
        {part === "tags" && <TagSettings site={site} />}
        {part === "comments" && <CommentSettings site={site} />}
        {part === "plan" && <PlanSettings site={site} />}
        {part === "destinations" && <DestinationSettings site={site} />}
        {part === "export" && <ExportSettings site={site} />}
      </main>
    </div>
  );
}
