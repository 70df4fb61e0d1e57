import { ZoomIn, ZoomOut } from "lucide-react";
import { IconButton } from "../../ui/Button";
import { useCommands } from "../../ui/commands";

type Props = { zoom: number; zooms: { value: number; name: string }[]; onZoom: (zoom: number) => void };

/** Makes the hours of the tape wider, so that close neighbours come apart, or narrower. */
export function Zoom({ zoom, zooms, onZoom }: Props) {
  const at = zooms.findIndex((z) => z.value === zoom);
  const wider = zooms[at + 1];
  const narrower = zooms[at - 1];
  useCommands([
    ...(wider ? [{ name: "Wider hours", group: "Almanac", keys: "z", run: () => onZoom(wider.value) }] : []),
    ...(narrower
      ? [{ name: "Narrower hours", group: "Almanac", keys: "Z", run: () => onZoom(narrower.value) }]
      : []),
  ]);
  return (
    <div role="group" aria-label={`Hours: ${zooms[at]?.name ?? "Whole day"}`} className="flex">
      <IconButton
        label="Narrower hours"
        disabled={!narrower}
        onClick={() => narrower && onZoom(narrower.value)}
      >
        <ZoomOut size={16} />
      </IconButton>
      <IconButton label="Wider hours" disabled={!wider} onClick={() => wider && onZoom(wider.value)}>
        <ZoomIn size={16} />
      </IconButton>
    </div>
  );
}
