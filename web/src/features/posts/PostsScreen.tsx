import { useWindowVirtualizer } from "@tanstack/react-virtual";
import { ArrowDown, ArrowUp } from "lucide-react";
import { useEffect, useLayoutEffect, useRef, useState } from "react";
import { useParams } from "react-router";
import { Tick } from "../../ui/Tick";
import { TroubleHere } from "../../ui/Trouble";
import { useNarrow } from "../../ui/useNarrow";
import { useSession } from "../session/session";
import { BulkBar } from "./BulkBar";
import { columns, useColumns, type Column } from "./columns";
import { FilterBar } from "./FilterBar";
import { PostRow } from "./PostRow";
import { stages, useCounts, useFilter, usePosts, type Filter, type Listed } from "./posts";
import { QuickEdit } from "./QuickEdit";
import { StageRail } from "./StageRail";

/** All posts and drafts: found, narrowed, put in order, and dealt with many at a time. */
export default function PostsScreen() {
  const { site = "" } = useParams();
  const { filter, set, narrowed, clear } = useFilter();
  const { shown, toggle } = useColumns();
  const list = usePosts(site, filter);
  const editor = useSession().data?.sites.find((s) => s.slug === site)?.role !== "contributor";
  const [chosen, setChosen] = useState<ReadonlySet<number>>(new Set());
  const [all, setAll] = useState(false);
  const counts = useCounts(site, filter).data;
  const posts = list.data?.pages.flatMap((p) => p.posts) ?? [];
  const total = totalOf(counts, filter);

  function choose(ids: Iterable<number>, on: boolean) {
    const next = new Set(chosen);
    for (const id of ids) {
      if (on) next.add(id);
      else next.delete(id);
    }
    setChosen(next);
    setAll(false);
  }
  function none() {
    setChosen(new Set());
    setAll(false);
  }
  function narrow(change: Partial<Filter>) {
    none();
    set(change);
  }

  const picked = posts.filter((p) => chosen.has(p.id));
  return (
    <main className="mx-auto flex w-full max-w-400 flex-col gap-x-6 gap-y-3 px-5 pt-4 pb-10 md:flex-row">
      <StageRail counts={counts} chosen={filter.stage} onChoose={(stage) => narrow({ stage })} />
      <section aria-label="Posts" className="min-w-0 flex-1">
        <h1 className="sr-only">Posts</h1>
        <FilterBar
          site={site}
          filter={filter}
          narrowed={narrowed}
          set={narrow}
          clear={() => {
            none();
            clear();
          }}
          shown={shown}
          toggle={toggle}
        />
        <p role="status" className="sr-only">
          {counts && list.data && !list.isPlaceholderData && (total === 1 ? "1 post" : `${total} posts`)}
        </p>
        {list.error && !list.data && <TroubleHere error={list.error} retry={() => void list.refetch()} />}
        <Table
          site={site}
          filter={filter}
          posts={posts}
          total={total}
          shown={shown}
          editor={editor}
          loaded={Boolean(list.data)}
          stale={list.isPlaceholderData}
          narrowed={narrowed}
          isChosen={(id) => all || chosen.has(id)}
          choose={choose}
          sort={(sort) =>
            set({ sort, order: filter.sort === sort && filter.order === "down" ? "up" : "down" })
          }
          more={list.hasNextPage && !list.isFetchingNextPage ? () => void list.fetchNextPage() : undefined}
        />
        {editor && picked.length > 0 && (
          <BulkBar
            site={site}
            chosen={picked}
            filter={filter}
            total={total}
            all={all}
            onAll={() => setAll(true)}
            onNone={none}
          />
        )}
      </section>
    </main>
  );
}

function totalOf(counts: Record<string, number> | undefined, filter: Filter): number {
  if (!counts) return 0;
  if (filter.stage) return counts[filter.stage] ?? 0;
  return stages.filter((s) => s.stage !== "binned").reduce((sum, s) => sum + (counts[s.stage] ?? 0), 0);
}

type TableProps = {
  site: string;
  filter: Filter;
  posts: Listed[];
  total: number;
  shown: Column[];
  editor: boolean;
  loaded: boolean;
  stale: boolean;
  narrowed: boolean;
  isChosen: (id: number) => boolean;
  choose: (ids: Iterable<number>, on: boolean) => void;
  sort: (by: "date" | "title" | "words" | "changed") => void;
  more: (() => void) | undefined;
};

const rowHeight = 41;

/** The columns that leave the title room enough, the first ones first; in rem, whatever size letters have. */
function fit(shown: Column[], width: number): Column[] {
  const titleNeeds = 15;
  const rem = parseFloat(getComputedStyle(document.documentElement).fontSize) || 16;
  let room = width / rem - titleNeeds - 1.5 - 1.75 - 2 * 0.75;
  return shown.filter((c) => {
    room -= parseFloat(columns.find((one) => one.column === c)!.width) + 0.75;
    return room >= 0;
  });
}

function Table(props: TableProps) {
  const { posts, shown, isChosen, choose, more } = props;
  const body = useRef<HTMLDivElement>(null);
  const [top, setTop] = useState(0);
  const [width, setWidth] = useState(0);
  const [editing, setEditing] = useState(0);
  useLayoutEffect(() => setTop(body.current?.offsetTop ?? 0), [posts.length]);
  useLayoutEffect(() => {
    const el = body.current;
    if (!el) return;
    setWidth(el.clientWidth);
    const sizes = new ResizeObserver(() => setWidth(el.clientWidth));
    sizes.observe(el);
    return () => sizes.disconnect();
  }, []);
  const rows = useWindowVirtualizer({
    count: posts.length,
    estimateSize: () => rowHeight,
    overscan: 12,
    scrollMargin: top,
    getItemKey: (i) => posts[i]?.id ?? i,
  });
  const seen = rows.getVirtualItems();
  const last = seen.at(-1)?.index ?? 0;
  useEffect(() => {
    if (more && posts.length > 0 && last >= posts.length - 20) more();
  }, [last, posts.length, more]);

  const wide = !useNarrow();
  const fitting = wide ? fit(shown, width) : [];
  const widths = fitting.map((c) => columns.find((one) => one.column === c)!.width);
  const template = ["1.5rem", "minmax(0,1fr)", ...widths, "1.75rem"].join(" ");
  const everyOne = posts.length > 0 && posts.every((p) => isChosen(p.id));
  return (
    <div role="table" aria-label="Posts" aria-rowcount={props.total + 1} className="mt-2">
      <div
        role="row"
        style={{ gridTemplateColumns: template }}
        className="grid items-center gap-x-3 border-b border-strong pb-1 text-xs text-soft"
      >
        <div role="columnheader" className="pl-1">
          <Tick
            label="Choose all that are shown"
            hideLabel
            on={everyOne}
            onChange={(on) =>
              choose(
                posts.map((p) => p.id),
                on,
              )
            }
          />
        </div>
        <Head {...props} name="Title" by="title" />
        {fitting.map((c) => {
          const column = columns.find((one) => one.column === c)!;
          const by = column.sort === "relevance" ? undefined : column.sort;
          return <Head key={c} {...props} name={column.name} by={by} />;
        })}
        <div role="columnheader">
          <span className="sr-only">Quick edit</span>
        </div>
      </div>
      {props.loaded && posts.length === 0 && <Nothing narrowed={props.narrowed} stage={props.filter.stage} />}
      <div
        ref={body}
        role="rowgroup"
        className={`relative ${props.stale ? "opacity-60" : ""}`}
        style={{ height: rows.getTotalSize(), minHeight: props.loaded ? 0 : 400 }}
      >
        {seen.map((item) => {
          const post = posts[item.index];
          if (!post) return null;
          return (
            <div
              key={item.key}
              role="presentation"
              ref={rows.measureElement}
              data-index={item.index}
              className="absolute inset-x-0 top-0"
              style={{ transform: `translateY(${item.start - top}px)` }}
            >
              {editing === post.id ? (
                <QuickEdit site={props.site} post={post} editor={props.editor} onDone={() => setEditing(0)} />
              ) : (
                <PostRow
                  site={props.site}
                  post={post}
                  shown={fitting}
                  template={template}
                  chosen={isChosen(post.id)}
                  onChoose={(on) => choose([post.id], on)}
                  onEdit={() => setEditing(post.id)}
                />
              )}
            </div>
          );
        })}
      </div>
    </div>
  );
}

type HeadProps = TableProps & { name: string; by: "date" | "title" | "words" | "changed" | undefined };

function Head({ filter, name, by, sort }: HeadProps) {
  const on = by !== undefined && filter.sort === by;
  const up = filter.order === "up";
  if (!by)
    return (
      <div role="columnheader" className="hidden md:block">
        {name}
      </div>
    );
  return (
    <div
      role="columnheader"
      aria-sort={on ? (up ? "ascending" : "descending") : "none"}
      className={by === "title" ? "" : "hidden md:block"}
    >
      <button type="button" onClick={() => sort(by)} className="flex items-center gap-1 hover:text-ink">
        <span className={on ? "font-semibold text-ink" : ""}>{name}</span>
        {on && (up ? <ArrowUp size={12} aria-hidden /> : <ArrowDown size={12} aria-hidden />)}
      </button>
    </div>
  );
}

function Nothing({ narrowed, stage }: { narrowed: boolean; stage: string }) {
  return (
    <p role="status" className="py-16 text-center text-soft">
      {narrowed
        ? "No posts match. Clear a filter."
        : stage === "binned"
          ? "The bin is empty."
          : stage
            ? "No post stands here."
            : "Nothing is written yet. Begin with “New draft”, above."}
    </p>
  );
}
