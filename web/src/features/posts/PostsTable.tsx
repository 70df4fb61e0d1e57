import {
  flexRender,
  functionalUpdate,
  useTable,
  type Header,
  type RowSelectionState,
} from "@tanstack/react-table";
import { useWindowVirtualizer } from "@tanstack/react-virtual";
import { ArrowDown, ArrowUp } from "lucide-react";
import { useEffect, useLayoutEffect, useMemo, useRef, useState } from "react";
import { Tick } from "../../ui/Tick";
import { useNarrow } from "../../ui/useNarrow";
import { beside, columnOf, columns, ends, features, fitting, sortOf } from "./columns";
import { PostRow } from "./PostRow";
import type { Filter, Listed, Sort } from "./posts";
import { QuickEdit } from "./QuickEdit";

type Props = {
  site: string;
  filter: Filter;
  /** As many as are loaded. */
  posts: Listed[];
  total: number;
  shown: string[];
  editor: boolean;
  loaded: boolean;
  stale: boolean;
  narrowed: boolean;
  /** The ids of the chosen posts. */
  chosen: RowSelectionState;
  onChoose: (chosen: RowSelectionState) => void;
  onSort: (sort: { sort: Sort; order: Filter["order"] }) => void;
  more: (() => void) | undefined;
};

const rowHeight = 41;

/** The list of posts as a table: drawn as far as it is seen, fetched as far as it is scrolled. */
export function PostsTable(props: Props) {
  const { posts, shown, filter, chosen, more } = props;
  const body = useRef<HTMLDivElement>(null);
  const [top, setTop] = useState(0);
  const [width, setWidth] = useState(0);
  useLayoutEffect(() => setTop(body.current?.offsetTop ?? 0), [posts.length]);
  useLayoutEffect(() => {
    const el = body.current;
    if (!el) return;
    setWidth(el.clientWidth);
    const sizes = new ResizeObserver(() => setWidth(el.clientWidth));
    sizes.observe(el);
    return () => sizes.disconnect();
  }, []);
  const [editing, setEditing] = useState(0);
  const wide = !useNarrow();
  const visible = useMemo(() => {
    const letter = parseFloat(getComputedStyle(document.documentElement).fontSize) || 16;
    return fitting(wide ? shown : [], width, letter);
  }, [wide, shown, width]);
  const sorting = [{ id: columnOf(filter.sort), desc: filter.order === "down" }];
  const table = useTable({
    features,
    columns,
    data: posts,
    getRowId: (p) => String(p.id),
    manualSorting: true,
    enableSortingRemoval: false,
    enableMultiSort: false,
    sortDescFirst: true,
    state: { sorting, rowSelection: chosen, columnVisibility: visible },
    onSortingChange: (change) => {
      const [by] = functionalUpdate(change, sorting);
      if (by) props.onSort({ sort: sortOf(by.id), order: by.desc ? "down" : "up" });
    },
    onRowSelectionChange: (change) => props.onChoose(functionalUpdate(change, chosen)),
  });
  const all = table.getRowModel().rows;
  const rows = useWindowVirtualizer({
    count: all.length,
    estimateSize: () => rowHeight,
    overscan: 12,
    scrollMargin: top,
    getItemKey: (i) => all[i]?.id ?? i,
  });
  const seen = rows.getVirtualItems();
  const last = seen.at(-1)?.index ?? 0;
  useEffect(() => {
    if (more && posts.length > 0 && last >= posts.length - 20) more();
  }, [last, posts.length, more]);

  const sizes = beside.filter((c) => visible[c.id]).map((c) => `${c.size}rem`);
  const template = [`${ends[0]}rem`, "minmax(0,1fr)", ...sizes, `${ends[1]}rem`].join(" ");
  return (
    <div role="table" aria-label="Posts" aria-rowcount={props.total + 1} className="mt-2">
      <div
        role="row"
        style={{ gridTemplateColumns: template }}
        className="grid items-center gap-x-3 border-b border-strong pb-1 text-xs text-soft"
      >
        <div role="columnheader" className="pl-1">
          <Tick
            label="Select all that are shown"
            hideLabel
            on={table.getIsAllRowsSelected()}
            onChange={(on) => table.toggleAllRowsSelected(on)}
          />
        </div>
        {table.getHeaderGroups()[0]?.headers.map((header) => (
          <Head key={header.id} header={header} />
        ))}
        <div role="columnheader">
          <span className="sr-only">Quick edit</span>
        </div>
      </div>
      {props.loaded && posts.length === 0 && <Nothing narrowed={props.narrowed} stage={filter.stage} />}
      <div
        ref={body}
        role="rowgroup"
        aria-busy={props.stale}
        className="relative aria-busy:renewed"
        style={{ height: rows.getTotalSize(), minHeight: props.loaded ? 0 : 400 }}
      >
        {seen.map((item) => {
          const row = all[item.index];
          if (!row) return null;
          const post = row.original;
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
                  row={row}
                  chosen={chosen[row.id] ?? false}
                  template={template}
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

function Head({ header }: { header: Header<typeof features, Listed> }) {
  const { column } = header;
  const name = flexRender(column.columnDef.header, header.getContext());
  const look = column.id === "title" ? "" : "hidden md:block";
  if (!column.getCanSort())
    return (
      <div role="columnheader" className={look}>
        {name}
      </div>
    );
  const sorted = column.getIsSorted();
  return (
    <div
      role="columnheader"
      aria-sort={sorted ? (sorted === "asc" ? "ascending" : "descending") : "none"}
      className={look}
    >
      <button
        type="button"
        onClick={() => column.toggleSorting()}
        className="flex items-center gap-1 hover:text-ink"
      >
        <span className={sorted ? "font-semibold text-ink" : ""}>{name}</span>
        {sorted === "asc" && <ArrowUp size={12} aria-hidden />}
        {sorted === "desc" && <ArrowDown size={12} aria-hidden />}
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
            ? "No posts here."
            : "Nothing is written yet. Begin with “New draft”, above."}
    </p>
  );
}
