import { Download } from "lucide-react";
import { Part } from "../../ui/Part";
import { useOwner } from "../session/session";
import { tableOf } from "./tables";

/** What a blog holds, to be used by other programs. */
export function ExportSettings({ site }: { site: string }) {
  const owner = useOwner(site);
  return (
    <>
      <h1 className="mb-4 font-title text-2xl">Export</h1>
      <Part
        title="Posts"
        hint="All that is said of them but their texts: title, status, address, author, category, tags, dates, words, custom fields. Posts in the bin are left out."
      >
        <Links
          links={[
            { name: "Posts as .xlsx", to: tableOf(site, "posts", "xlsx") },
            { name: "Posts as .csv", to: tableOf(site, "posts", "csv") },
          ]}
        />
        <p className="mt-2 text-xs text-soft">
          For some of them, filter the list of posts and choose <i>Export</i> there.
        </p>
      </Part>
      <Part title="Plan" hint="Scheduled posts and planned messages, in the order of their times.">
        <Links
          links={[
            { name: "Plan as .xlsx", to: tableOf(site, "plan", "xlsx") },
            { name: "Plan as .csv", to: tableOf(site, "plan", "csv") },
          ]}
        />
      </Part>
      <Part
        title="Everything"
        hint="Posts as Markdown files, pictures as they were uploaded, comments, and what is set for the whole blog."
      >
        {owner ? (
          <>
            <Links
              links={[
                { name: "The blog as .zip", to: `/api/v1/sites/${site}/copy.zip` },
                { name: "The blog as .json", to: `/api/v1/sites/${site}/copy.json` },
              ]}
            />
            <p className="mt-2 text-xs text-soft">
              The .zip can be brought in again under <i>Posts → Import</i>. For programs, the .json is one
              document;{" "}
              <a href="/api/v1/blog.schema.json" className="underline underline-offset-2">
                its schema
              </a>{" "}
              says what stands in it.
            </p>
          </>
        ) : (
          <p className="text-sm text-soft">An owner of the blog can download it.</p>
        )}
      </Part>
      <p className="text-xs text-soft">
        Dates are in the blog’s time zone. In .csv files, a text that begins like a formula has an apostrophe
        before it, so that no sheet runs it.
      </p>
    </>
  );
}

function Links({ links }: { links: { name: string; to: string }[] }) {
  return (
    <ul className="flex flex-wrap gap-2">
      {links.map((l) => (
        <li key={l.name}>
          <a
            href={l.to}
            download
            className="inline-flex h-8 items-center gap-1.5 rounded-md border border-strong bg-sheet px-3 text-base hover:bg-sunk"
          >
            <Download size={14} aria-hidden /> {l.name}
          </a>
        </li>
      ))}
    </ul>
  );
}
