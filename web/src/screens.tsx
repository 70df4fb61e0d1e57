import type { ComponentType } from "react";
import { screen } from "./ui/screen";

const screens = {
  "": screen(() => import("./features/almanac/AlmanacScreen")),
  write: screen(() => import("./features/editor/EditorScreen")),
  edits: screen(() => import("./features/timed/TimedEditScreen")),
  forecast: screen(() => import("./features/forecast/ForecastScreen")),
  rules: screen(() => import("./features/rules/RulesScreen")),
  upkeep: screen(() => import("./features/upkeep/UpkeepScreen")),
  tours: screen(() => import("./features/tours/ToursScreen")),
  tour: screen(() => import("./features/tours/TourScreen")),
  results: screen(() => import("./features/results/ResultsScreen")),
  notice: screen(() => import("./features/upkeep/NoticeScreen")),
  rule: screen(() => import("./features/rules/RuleScreen")),
  logbook: screen(() => import("./features/logbook/LogbookScreen")),
  settings: screen(() => import("./features/settings/SettingsScreen")),
  posts: screen(() => import("./features/posts/PostsScreen")),
  import: screen(() => import("./features/imports/ImportsScreen")),
  imported: screen(() => import("./features/imports/ImportScreen")),
  pictures: screen(() => import("./features/pictures/PicturesScreen")),
  channels: screen(() => import("./features/channels/ChannelsScreen")),
  prepared: screen(() => import("./features/prepared/PreparedScreen")),
  webhooks: screen(() => import("./features/webhooks/WebhooksScreen")),
  comments: screen(() => import("./features/comments/CommentsScreen")),
  people: screen(() => import("./features/people/PeopleScreen")),
  account: screen(() => import("./features/people/AccountScreen")),
  overdue: screen(() => import("./features/overdue/OverdueScreen")),
  rhythm: screen(() => import("./features/rhythm/RhythmScreen")),
};

type Name = keyof typeof screens;

/** The screens of a site, by the first word that follows the site in their addresses; a rule's is "rule", a tour's "tour", an import's "imported". */
export const screenOf = Object.fromEntries(
  Object.entries(screens).map(([name, { Screen }]) => [name, Screen]),
) as unknown as Record<Name, ComponentType>;

/** Loads the screen of an address. */
export async function screenAhead(path: string): Promise<void> {
  const [, slug = "", word = "", more] = path.split("/");
  const ofOne: Record<string, string> = { rules: "rule", tours: "tour", import: "imported" };
  const name = (more && ofOne[word]) || word;
  if (slug && name in screens) await screens[name as Name].get();
}
