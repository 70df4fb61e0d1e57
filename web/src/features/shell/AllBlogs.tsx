import { useNavigate } from "react-router";
import { useCommands } from "../../ui/commands";
import { Skip } from "../../ui/Skip";
import AllBlogsScreen from "../blogs/AllBlogsScreen";
import type { Me } from "../session/session";
import { Arrival } from "./Arrival";
import { Keys } from "./Keys";
import { PersonMenu, SiteMenu } from "./PersonMenu";
import { lastSite } from "./Shell";

/** The frame round the screen of all blogs: what it has beside that of one blog. */
export default function AllBlogs({ me }: { me: Me }) {
  const navigate = useNavigate();
  const last = localStorage.getItem(lastSite);
  const here = me.sites.find((s) => s.slug === last)?.slug ?? me.sites[0]?.slug ?? "";
  useCommands(
    me.sites.map((s) => ({ name: s.title, group: "Blogs", run: () => void navigate(`/${s.slug}`) })),
  );
  return (
    <div className="flex min-h-screen flex-col">
      <Arrival title="All blogs" />
      <header className="flex min-h-13 shrink-0 items-center gap-3 border-b border-line bg-sheet px-5 print:hidden">
        <Skip to="main" className="focus:absolute focus:top-2 focus:left-2 focus:z-50">
          Skip to the content
        </Skip>
        <span className="font-title text-xl font-medium">Dapper Almanac</span>
        <SiteMenu sites={me.sites} />
        <span className="ml-auto" />
        {here && <PersonMenu me={me} site={here} />}
      </header>
      <AllBlogsScreen />
      {here && <Keys site={here} />}
    </div>
  );
}
