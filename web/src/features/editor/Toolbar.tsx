import {
  Bold,
  Code,
  Heading2,
  Heading3,
  ImagePlus,
  Italic,
  Link2,
  List,
  ListOrdered,
  Superscript,
  Table2,
  TextQuote,
} from "lucide-react";
import { useRef, type KeyboardEvent } from "react";
import * as markup from "./markup";

type Props = {
  disabled: boolean;
  onChange: (change: markup.Change) => void;
  onLink: () => void;
  onPicture: () => void;
};

const tools = [
  { name: "Heading", icon: Heading2, change: markup.heading(2) },
  { name: "Subheading", icon: Heading3, change: markup.heading(3) },
  { name: "Bold", keys: "Ctrl B", icon: Bold, change: markup.around("**") },
  { name: "Italics", keys: "Ctrl I", icon: Italic, change: markup.around("*") },
  { name: "Link…", keys: "Ctrl K", icon: Link2 },
  { name: "List", icon: List, change: markup.bulletList },
  { name: "Numbered list", icon: ListOrdered, change: markup.numberedList },
  { name: "Quote", icon: TextQuote, change: markup.quote },
  { name: "Code", icon: Code, change: markup.code },
  { name: "Table", icon: Table2, change: markup.table },
  { name: "Footnote", icon: Superscript, change: markup.footnote },
  { name: "Picture…", icon: ImagePlus },
];

/** What can be done to the text. One stop for Tab; arrows go from tool to tool (ARIA's toolbar pattern). */
export function Toolbar({ disabled, onChange, onLink, onPicture }: Props) {
  const place = useRef<HTMLDivElement>(null);
  function turn(event: KeyboardEvent) {
    const all = [...(place.current?.querySelectorAll("button") ?? [])];
    const at = all.indexOf(event.target as HTMLButtonElement);
    const to = {
      ArrowRight: (at + 1) % all.length,
      ArrowLeft: (at + all.length - 1) % all.length,
      Home: 0,
      End: all.length - 1,
    }[event.key];
    if (to === undefined || at < 0) return;
    event.preventDefault();
    all.forEach((b, i) => (b.tabIndex = i === to ? 0 : -1));
    all[to]?.focus();
  }
  return (
    <div
      ref={place}
      role="toolbar"
      aria-label="Formatting"
      tabIndex={-1}
      onKeyDown={turn}
      className="flex flex-wrap items-center"
    >
      {tools.map(({ name, keys, icon: Icon, change }, i) => (
        <button
          key={name}
          type="button"
          tabIndex={i === 0 ? 0 : -1}
          aria-label={name}
          aria-disabled={disabled || undefined}
          title={keys ? `${name} (${keys})` : name}
          // The cursor and what is selected stay in the text.
          onMouseDown={(e) => e.preventDefault()}
          onClick={() => {
            if (disabled) return;
            if (change) onChange(change);
            else if (name === "Link…") onLink();
            else onPicture();
          }}
          className="inline-flex size-7 items-center justify-center rounded-md text-soft hover:bg-sunk hover:text-ink aria-disabled:opacity-40"
        >
          <Icon size={16} aria-hidden />
        </button>
      ))}
    </div>
  );
}
