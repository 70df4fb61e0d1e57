import { Plus } from "lucide-react";
import { dateParts } from "../../ui/civil";
import type { Season } from "./seasons";

type Props = { seasons: Season[]; shown: string; onShow: (id: string) => void };

/** The usual week and the seasons that hold in its place; one of them is shown. */
export function SeasonTabs({ seasons, shown, onShow }: Props) {
  const tab = (id: string, name: string, dates: string) => (
    <button
      key={id}
      type="button"
      aria-pressed={shown === id}
      onClick={() => onShow(id)}
      className={`rounded-md border px-3 py-1 text-left text-sm ${shown === id ? "border-ink bg-sheet" : "border-line text-soft hover:border-strong hover:text-ink"}`}
    >
      <span className="block font-medium">{name}</span>
      <span className="block text-xs text-soft">{dates}</span>
    </button>
  );
  return (
    <div role="group" aria-label="Usual week and seasons" className="mb-4 flex flex-wrap gap-2">
      {tab("", "The usual week", "whenever no season holds")}
      {seasons.map((s) => tab(String(s.id), s.name, `${day(s.starts)} to ${day(s.ends)}`))}
      <button
        type="button"
        aria-pressed={shown === "new"}
        onClick={() => onShow("new")}
        className={`flex items-center gap-1.5 rounded-md border border-dashed px-3 py-1 text-sm ${shown === "new" ? "border-ink" : "border-strong text-soft hover:text-ink"}`}
      >
        <Plus size={14} aria-hidden /> A season
      </button>
    </div>
  );
}

function day(date: string): string {
  const p = dateParts(date);
  return `${p.day} ${p.month} ${date.slice(0, 4)}`;
}
