import { flexRender } from "@tanstack/react-table";
import { Pencil } from "lucide-react";
import { IconButton } from "../../ui/Button";
import { Tick } from "../../ui/Tick";
import type { PostsRow } from "./columns";
import { Hits } from "./Title";

type Props = { row: PostsRow; chosen: boolean; template: string; onEdit: () => void };

/** One post of the list. */
export function PostRow({ row, chosen, template, onEdit }: Props) {
  const post = row.original;
  const title = post.title || "Untitled";
  return (
    <div
      role="row"
      style={{ gridTemplateColumns: template }}
      className={`group grid min-h-10 items-center gap-x-3 border-b border-line py-1 text-sm ${chosen ? "bg-open" : "hover:bg-sheet"}`}
    >
      <div role="cell" className="pl-1">
        <Tick label={`Choose “${title}”`} hideLabel on={chosen} onChange={(on) => row.toggleSelected(on)} />
      </div>
      {row.getVisibleCells().map((cell) => (
        <div
          key={cell.id}
          role="cell"
          className={`min-w-0 ${cell.column.id === "title" ? "" : "hidden truncate text-soft md:block"}`}
        >
          {flexRender(cell.column.columnDef.cell, cell.getContext())}
        </div>
      ))}
      <div role="cell" className="text-right">
        <IconButton label={`Quick edit of “${title}”`} onClick={onEdit}>
          <Pencil size={14} />
        </IconButton>
      </div>
      {post.snippet && (
        <div role="cell" style={{ gridColumn: "2 / -2" }} className="truncate text-xs text-soft">
          <Hits parts={post.snippet} />
        </div>
      )}
    </div>
  );
}
