import { layerNames, layers, type Layer } from "../plan/marks";

/** Switches the layers of the tape on and off. */
export function Layers({ on, onToggle }: { on: Layer[]; onToggle: (layer: Layer) => void }) {
  return (
    <div role="group" aria-label="Layers" className="flex flex-wrap gap-1">
      {layerNames.map((name) => {
        const layer = layers[name];
        const shown = on.includes(name);
        return (
          <button
            key={name}
            type="button"
            aria-pressed={shown}
            title={layer.name}
            onClick={() => onToggle(name)}
            className={`inline-flex h-7 items-center gap-1 rounded-md px-2 text-sm hover:bg-sunk ${shown ? "" : "text-faint line-through"}`}
          >
            <span aria-hidden className={shown ? layer.color : ""}>
              {layer.mark}
            </span>
            {layer.name}
          </button>
        );
      })}
    </div>
  );
}
