import { useState } from "react";
import { Link } from "react-router";
import { Button } from "../../ui/Button";
import { shownDay } from "../../ui/siteClock";
import { Tick } from "../../ui/Tick";
import { ageWords } from "./scale";
import type { Mark } from "./marks";
import { groups, type AgeMap, type Group } from "./upkeep";

type Props = {
  site: string;
  map: AgeMap;
  marks: Mark[];
  shown: Group | undefined;
  chosen: ReadonlySet<number>;
  onChoose: (ids: number[], more: boolean) => void;
};

const atOnce = 100;

/** The map as a table: the same posts, oldest first. */
export function PostTable({ site, map, marks, shown, chosen, onChoose }: Props) {
  const [most, setMost] = useState(atOnce);
  const mine = shown ? marks.filter((m) => m.groups.includes(shown)) : marks;
  const names = new Map(map.lines.map((l) => [l.id, l.name]));
  const all = mine.length > 0 && mine.every((m) => chosen.has(m.post.id));
  return (
    <div data-sideways className="overflow-x-auto">
      <table className="w-full min-w-160 border-y border-line text-sm">
        <thead>
          <tr className="border-b border-line text-left text-soft">
            <th scope="col" className="w-8 py-1.5 pl-1 font-normal">
              <Tick
                label="Choose all"
                hideLabel
                on={all}
                onChange={(on) => onChoose(on ? mine.map((m) => m.post.id) : [], false)}
              />
            </th>
            <th scope="col" className="py-1.5 font-normal">
              Post
            </th>
            <th scope="col" className="py-1.5 font-normal">
              Category
            </th>
            <th scope="col" className="py-1.5 font-normal">
              Age
            </th>
            <th scope="col" className="py-1.5 font-normal">
              What it is
            </th>
            <th scope="col" className="py-1.5 font-normal">
              Rules that match
            </th>
          </tr>
        </thead>
        <tbody>
          {mine.slice(0, most).map(({ post, age, groups: of }) => (
            <tr key={post.id} className="border-b border-line last:border-0 hover:bg-sheet">
              <td className="py-1.5 pl-1">
                <Tick
                  label={`Choose “${post.title}”`}
                  hideLabel
                  on={chosen.has(post.id)}
                  onChange={(on) => onChoose(on ? [post.id] : [...chosen].filter((id) => id !== post.id), on)}
                />
              </td>
              <td className="max-w-80 py-1.5 pr-3">
                <Link to={`/${site}/write/${post.id}`} className="block truncate font-medium">
                  {post.title}
                </Link>
              </td>
              <td className="py-1.5 pr-3">{map.categories[post.lane] || "None"}</td>
              <td className="py-1.5 pr-3 whitespace-nowrap" title={shownDay(post.published)}>
                {ageWords(age)}
              </td>
              <td className="py-1.5 pr-3">
                {[
                  post.evergreen && "evergreen",
                  post.never && "never expires",
                  post.kept && "kept for now",
                  post.edited && "timed edit",
                  post.shared && `shared ${post.shared} ×`,
                ]
                  .filter(Boolean)
                  .join(", ")}
              </td>
              <td className="py-1.5">
                {(post.rules ?? []).map((id) => names.get(id)).join(", ")}
                {of.includes("fought") && <span className="text-madder"> disagree</span>}
                {of.includes("alone") && <span className="text-soft">none</span>}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {mine.length === 0 && (
        <p className="py-3 text-sm text-soft">{shown ? groups[shown].none : "No post is out yet."}</p>
      )}
      {mine.length > most && (
        <Button className="mt-2" onClick={() => setMost(most + 4 * atOnce)}>
          Show more of {mine.length.toLocaleString("en-GB")}
        </Button>
      )}
    </div>
  );
}
