import { Popover, PopoverButton, PopoverPanel } from "@headlessui/react";
import { Columns3, Download, FileUp, Glasses, Search, SlidersHorizontal, X } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { Link } from "react-router";
import { Button } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { useCommands } from "../../ui/commands";
import { DateField } from "../../ui/DateField";
import { Field, inputLook } from "../../ui/Field";
import { Several, saySeveral } from "../../ui/Several";
import { Tick } from "../../ui/Tick";
import { shownDate } from "../../ui/siteClock";
import { isDate } from "../../ui/typed";
import { useSettled } from "../../ui/useSettled";
import { useTopics } from "../blog/topics";
import { usePeople } from "../blog/people";
import { Lenses, useLensCommands } from "../lenses/Lenses";
import { beside } from "./columns";
import { tableOf } from "../settings/tables";
import { asLens, filterNow, match, ofLens, type Filter } from "./posts";

type Props = {
  site: string;
  filter: Filter;
  narrowed: boolean;
  set: (change: Partial<Filter>) => void;
  clear: () => void;
  shown: string[];
  toggle: (column: string, on: boolean) => void;
};

/** What the list is searched for and narrowed by, and which columns it has. */
export function FilterBar({ site, filter, narrowed, set, clear, shown, toggle }: Props) {
  useLensCommands(site, "posts", ({ posts }) => posts && set(ofLens(posts)));
  return (
    <div className="flex flex-wrap items-center gap-2">
      <SearchField text={filter.text} onSearch={(text) => set({ text })} />
      <Narrow site={site} filter={filter} set={set} />
      {narrowed && (
        <Button look="quiet" icon={<X size={14} />} onClick={clear}>
          Clear filters
        </Button>
      )}
      <Link
        to={`/${site}/import`}
        className="ml-auto inline-flex h-8 items-center gap-1.5 rounded-md px-3 text-sm text-soft hover:bg-sunk hover:text-ink"
      >
        <FileUp size={14} aria-hidden /> Import
      </Link>
      <Popover>
        <PopoverButton className="inline-flex h-8 items-center gap-1.5 rounded-md px-3 text-sm text-soft data-hover:bg-sunk data-hover:text-ink">
          <Download size={14} /> Export
        </PopoverButton>
        <PopoverPanel
          anchor="bottom end"
          className="z-50 w-64 space-y-1.5 rounded-md border border-strong bg-sheet p-3 text-sm shadow-lifted [--anchor-gap:4px]"
        >
          <p className="text-soft">The posts of this list, without their texts:</p>
          {(["xlsx", "csv"] as const).map((format) => (
            <a
              key={format}
              download
              href={tableOf(site, "posts", format, match(filter))}
              className="block underline underline-offset-2"
            >
              As .{format}
            </a>
          ))}
        </PopoverPanel>
      </Popover>
      <Popover>
        <PopoverButton className="inline-flex h-8 items-center gap-1.5 rounded-md px-3 text-sm text-soft data-hover:bg-sunk data-hover:text-ink">
          <Columns3 size={14} /> Columns
        </PopoverButton>
        <PopoverPanel
          anchor="bottom end"
          className="z-50 space-y-1.5 rounded-md border border-strong bg-sheet p-3 shadow-lifted [--anchor-gap:4px]"
        >
          {beside.map((c) => (
            <Tick key={c.id} label={c.name} on={shown.includes(c.id)} onChange={(on) => toggle(c.id, on)} />
          ))}
        </PopoverPanel>
      </Popover>
    </div>
  );
}

function SearchField({ text, onSearch }: { text: string; onSearch: (text: string) => void }) {
  const [typed, setTyped] = useState(text);
  const [seen, setSeen] = useState(text);
  if (seen !== text) {
    setSeen(text);
    setTyped(text); // changed elsewhere, such as by going back
  }
  const settled = useSettled(typed, 250);
  useEffect(() => {
    if (settled === typed && settled !== text) onSearch(settled);
    // Only what has settled is searched for.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [settled]);
  const place = useRef<HTMLInputElement>(null);
  useCommands([{ name: "Search posts", group: "Posts", keys: "/", run: () => place.current?.focus() }]);
  return (
    <div className="relative w-72 max-w-full">
      <Search size={14} aria-hidden className="absolute top-2.25 left-2.5 text-soft" />
      <input
        ref={place}
        type="search"
        aria-label="Search posts"
        placeholder="Words of title or text"
        value={typed}
        onChange={(e) => setTyped(e.target.value)}
        className={`${inputLook} pl-8!`}
      />
    </div>
  );
}

const kinds = [
  { value: "" as const, name: "Posts and pages" },
  { value: "post" as const, name: "Posts" },
  { value: "page" as const, name: "Pages" },
];

function Narrow({ site, filter, set }: Pick<Props, "site" | "filter" | "set">) {
  const topics = useTopics(site).data;
  const people = usePeople(site).data;
  const named = (all: { id: number; name: string }[] | undefined) =>
    (all ?? []).map((one) => ({ value: one.id, name: one.name }));
  const tags = named(topics?.tags);
  const said = [
    filter.tags.length > 0 && saySeveral(filter.tags, tags, "", "tags"),
    filter.kind,
    filter.from && `from ${shownDate(filter.from)}`,
    filter.to && `to ${shownDate(filter.to)}`,
  ]
    .filter(Boolean)
    .join(", ");
  return (
    <>
      <Several
        label="Authors"
        any="Any author"
        many="authors"
        className="w-40!"
        values={filter.authors}
        options={named(people)}
        onChange={(authors) => set({ authors })}
      />
      <Several
        label="Categories"
        any="Any category"
        many="categories"
        className="w-40!"
        values={filter.categories}
        options={[...named(topics?.categories), { value: -1, name: "No category" }]}
        onChange={(categories) => set({ categories })}
      />
      <Popover>
        <PopoverButton className="inline-flex h-8 max-w-72 items-center gap-1.5 rounded-md border border-strong bg-sheet px-3 text-sm data-hover:border-ink">
          <SlidersHorizontal size={14} className="shrink-0" />{" "}
          <span className="truncate">{said || "More…"}</span>
        </PopoverButton>
        <PopoverPanel
          anchor="bottom start"
          className="z-40 w-72 space-y-3 rounded-md border border-strong bg-sheet p-4 shadow-lifted [--anchor-gap:4px]"
        >
          <Field label="Tags">
            <Several
              label="Tags"
              any="Any tag"
              many="tags"
              values={filter.tags}
              options={tags}
              onChange={(tags) => set({ tags })}
            />
          </Field>
          <Field label="Kind">
            <Choice label="Kind" value={filter.kind} options={kinds} onChange={(kind) => set({ kind })} />
          </Field>
          <div className="space-y-2">
            <FilterDate label="From" value={filter.from} onChange={(from) => set({ from })} />
            <FilterDate label="To" value={filter.to} onChange={(to) => set({ to })} />
          </div>
          <p className="text-xs text-soft">
            For a draft, the date it was begun; otherwise when it comes out.
          </p>
          <Button look="quiet" onClick={() => set({ tags: [], kind: "", from: "", to: "" })}>
            Clear these
          </Button>
        </PopoverPanel>
      </Popover>
      <Popover>
        <PopoverButton className="inline-flex h-8 items-center gap-1.5 rounded-md px-3 text-sm text-soft data-hover:bg-sunk data-hover:text-ink">
          <Glasses size={14} aria-hidden /> Lenses
        </PopoverButton>
        <PopoverPanel
          anchor="bottom start"
          className="z-40 w-72 rounded-md border border-strong bg-sheet p-3 shadow-lifted [--anchor-gap:4px]"
        >
          <Lenses
            site={site}
            screen="posts"
            shown={() => ({ posts: asLens(filterNow()) })}
            what="A lens saves what you search for, the filters and the order under a name."
            onLook={({ posts }) => posts && set(ofLens(posts))}
          />
        </PopoverPanel>
      </Popover>
    </>
  );
}

/** One end of a range of dates. While it cannot be read, the list stays as it is. */
function FilterDate({
  label,
  value,
  onChange,
}: {
  label: string;
  value: string;
  onChange: (d: string) => void;
}) {
  const [written, setWritten] = useState(value);
  const [seen, setSeen] = useState(value);
  if (seen !== value) {
    setSeen(value);
    setWritten(value); // changed elsewhere, such as by going back
  }
  return (
    <DateField
      label={label}
      optional
      placeholder="any"
      toward="back"
      value={written}
      onChange={(date) => {
        setWritten(date);
        if (date === "" || isDate(date)) onChange(date);
      }}
    />
  );
}
