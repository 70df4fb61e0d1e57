import { Menu, MenuButton, MenuItem, MenuItems, Textarea } from "@headlessui/react";
import { Ellipsis, ImageIcon } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { inputLook } from "../../ui/Field";
import { shownPlace } from "../../ui/siteClock";
import { Tick } from "../../ui/Tick";
import { isOpen, isReady, type Row } from "./prepared";

type Props = {
  row: Row;
  channels: { id: number; name: string }[];
  editor: boolean;
  /** Whether its text is to be written now. */
  focused: boolean;
  onTick: (on: boolean) => void;
  onWrite: (text: string) => void;
  onEdit: () => void;
  onCopy: () => void;
  onDelete: () => void;
};

const outcomes: Record<Row["standing"], string> = {
  "being prepared": "",
  ready: "",
  due: "Going out now",
  sent: "Sent",
  failed: "Could not be sent",
  skipped: "Left out",
};

/** One prepared message. Its text is written in place; all else in its sheet. */
export function PreparedRow({
  row,
  channels,
  editor,
  focused,
  onTick,
  onWrite,
  onEdit,
  onCopy,
  onDelete,
}: Props) {
  const [text, setText] = useState<string>();
  const field = useRef<HTMLTextAreaElement>(null);
  useEffect(() => {
    if (focused) field.current?.focus();
  }, [focused]);
  const open = isOpen(row);
  const name = row.text.slice(0, 40) || "an empty message";
  const names = row.channels.map((id) => channels.find((c) => c.id === id)?.name ?? "a channel that is gone");
  const written = text ?? row.text;
  return (
    <tr className="border-b border-line align-top max-md:flex max-md:flex-wrap max-md:gap-x-3">
      <td className="py-2">
        {(open || isReady(row)) && editor && (
          <Tick label={`Ready: ${name}`} hideLabel on={!open} onChange={onTick} />
        )}
      </td>
      <td className="py-1.5 pr-3 max-md:w-full max-md:pr-0">
        {open && editor ? (
          <Textarea
            ref={field}
            aria-label={`Text of ${name}`}
            rows={Math.min(6, Math.max(1, Math.ceil(written.length / 55)))}
            value={written}
            placeholder="What does it say?"
            onChange={(e) => setText(e.target.value)}
            onBlur={() => {
              if (text !== undefined && text !== row.text) onWrite(text);
              setText(undefined);
            }}
            className={`${inputLook} h-auto! resize-y py-1`}
          />
        ) : (
          <p className="py-1 wrap-anywhere whitespace-pre-wrap">{row.text}</p>
        )}
        {row.problem && written === row.text && row.text !== "" && (
          <p className="mt-0.5 text-xs text-madder">{row.problem}</p>
        )}
      </td>
      <td className="py-2 pr-3">
        <div className="flex items-start gap-2">
          {row.picture ? (
            <img
              src={row.picture.url}
              alt={row.picture.alt}
              className="h-8 w-11 shrink-0 rounded-sm bg-sunk object-cover"
            />
          ) : row.pictureId ? (
            <ImageIcon size={16} aria-label="with a picture" className="mt-0.5 shrink-0 text-faint" />
          ) : null}
          <span className="min-w-0 wrap-anywhere">
            {row.postTitle || row.title || row.link?.replace(/^https?:\/\//, "") || (
              <span className="text-faint">nothing</span>
            )}
          </span>
        </div>
      </td>
      <td className="py-2 pr-3">
        {names.length > 0 ? names.join(", ") : <span className="text-faint">none</span>}
      </td>
      <td className="py-2 pr-3">
        <When row={row} />
      </td>
      <td className="py-1.5 text-right">
        {editor && (
          <Menu as="div" className="relative inline-block">
            <MenuButton
              aria-label={`Actions for ${name}`}
              className="inline-flex size-7 items-center justify-center rounded-md text-soft data-hover:bg-sunk data-hover:text-ink"
            >
              <Ellipsis size={16} aria-hidden />
            </MenuButton>
            <MenuItems
              anchor="bottom end"
              className="z-30 w-44 rounded-md border border-strong bg-sheet py-1 text-sm shadow-lifted"
            >
              <Item name={open ? "Edit…" : "Show…"} onClick={onEdit} />
              <Item name="Copy" onClick={onCopy} />
              {!isReady(row) && <Item name="Delete" onClick={onDelete} />}
            </MenuItems>
          </Menu>
        )}
      </td>
    </tr>
  );
}

function Item({ name, onClick }: { name: string; onClick: () => void }) {
  return (
    <MenuItem>
      <button type="button" onClick={onClick} className="block w-full px-3 py-1 text-left data-focus:bg-sunk">
        {name}
      </button>
    </MenuItem>
  );
}

function When({ row }: { row: Row }) {
  if (row.standing === "ready")
    return <span className="font-semibold">{row.goes ? shownPlace(row.goes) : "Waits for you"}</span>;
  if (!isOpen(row))
    return (
      <>
        <span className={row.standing === "failed" ? "text-madder" : ""}>{outcomes[row.standing]}</span>
        {row.sent && <span className="text-soft"> {shownPlace(row.sent)}</span>}
      </>
    );
  if (!row.place) return <span className="text-soft">at the next opening</span>;
  return (
    <>
      {shownPlace(row.place)}
      {row.passed && <span className="block text-xs text-madder">This time has passed.</span>}
    </>
  );
}
