import { Segments } from "../../ui/Segments";
import { ChevronLeft, ChevronRight } from "lucide-react";
import { Button, IconButton } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import type { Almanac } from "../plan/almanac";
import { FilterMenu } from "./FilterMenu";
import { Layers } from "./Layers";
import type { Lens } from "../lenses/lenses";
import type { Layer } from "../plan/marks";
import { Rework } from "./Rework";
import type { Read, Shown } from "./shown";
import { TakeAway } from "./TakeAway";
import { spans, unitOf, views, zooms } from "./view";
import { Zoom } from "./Zoom";

const viewOptions = views.map((v) => ({ value: v.view, name: v.name }));

type Props = {
  site: string;
  plan: Almanac;
  shown: Read;
  narrow: boolean;
  planner: boolean;
  layers: Layer[];
  onLayer: (layer: Layer) => void;
  onShow: (changes: Shown) => void;
  onLook: (lens: Lens) => void;
  onStep: (forward: boolean) => void;
};

/** What stands above the plan: layers, filter, view, span, and the way to other days. */
export function AlmanacBar({
  site,
  plan,
  shown,
  narrow,
  planner,
  layers,
  onLayer,
  onShow,
  onLook,
  onStep,
}: Props) {
  const { from, view, span, zoom, filter } = shown;
  const unit = unitOf(view, span);
  const first = plan.days[0]?.date ?? plan.now.date;
  return (
    <>
      {narrow && (
        <a href="#shelf" className="ml-auto text-sm underline underline-offset-2">
          To the shelf
        </a>
      )}
      <div className="ml-auto flex flex-wrap items-center gap-0.5 max-md:ml-0 print:hidden">
        {from && (
          <Button look="quiet" className="px-2!" onClick={() => onShow({ from: undefined })}>
            Today
          </Button>
        )}
        {planner && <Rework site={site} plan={plan} from={from} />}
        <TakeAway site={site} first={first} days={plan.days.length} />
        <IconButton label={`A ${unit} earlier`} onClick={() => onStep(false)}>
          <ChevronLeft size={16} />
        </IconButton>
        <IconButton label={`A ${unit} later`} onClick={() => onStep(true)}>
          <ChevronRight size={16} />
        </IconButton>
      </div>
      <div className="flex basis-full flex-wrap items-center gap-0.5 print:hidden">
        <Layers on={layers} onToggle={onLayer} />
        <span className="ml-auto" />
        <FilterMenu site={site} plan={plan} filter={filter} onChange={onShow} onLook={onLook} />
        {!narrow && (
          <Segments label="View" value={view} options={viewOptions} onChange={(v) => onShow({ view: v })} />
        )}
        {!narrow && view !== "month" && (
          <div className="w-28">
            <Choice label="Span" value={span} options={spans} onChange={(n) => onShow({ span: n })} />
          </div>
        )}
        {!narrow && view === "tape" && <Zoom zoom={zoom} zooms={zooms} onZoom={(z) => onShow({ zoom: z })} />}
      </div>
    </>
  );
}
