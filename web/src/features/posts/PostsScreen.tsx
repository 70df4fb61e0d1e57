import type { RowSelectionState } from "@tanstack/react-table";
import { useMemo, useState } from "react";
import { useParams } from "react-router";
import { TroubleHere } from "../../ui/Trouble";
import { useSession } from "../session/session";
import { AddLinkItem } from "./AddLinkItem";
import { BulkBar } from "./BulkBar";
import { useColumns } from "./columns";
import { FilterBar } from "./FilterBar";
import { PostsTable } from "./PostsTable";
import { shownStages, useCounts, useFilter, usePosts, type Filter } from "./posts";
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
  const posts = useMemo(() => list.data?.pages.flatMap((p) => p.posts) ?? [], [list.data]);
  const total = totalOf(counts, filter);
  const ticked = useMemo(
    (): RowSelectionState =>
      Object.fromEntries(posts.filter((p) => all || chosen.has(p.id)).map((p) => [p.id, true])),
    [posts, all, chosen],
  );

  function choose(next: RowSelectionState) {
    setChosen(new Set(posts.filter((p) => next[p.id]).map((p) => p.id)));
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
      <StageRail site={site} counts={counts} chosen={filter.stage} onChoose={(stage) => narrow({ stage })} />
      <section aria-label="Posts" className="min-w-0 flex-1">
        <h1 className="sr-only">Posts</h1>
        {editor && filter.stage === "linked" && <AddLinkItem site={site} />}
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
        <PostsTable
          site={site}
          filter={filter}
          posts={posts}
          total={total}
          shown={shown}
          editor={editor}
          loaded={Boolean(list.data)}
          stale={list.isPlaceholderData}
          narrowed={narrowed}
          chosen={ticked}
          onChoose={choose}
          onSort={set}
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
  return shownStages.reduce((sum, s) => sum + (counts[s.stage] ?? 0), 0);
}
