import { X } from "lucide-react";
import { IconButton } from "../../ui/Button";
import { zoneCity } from "../../ui/civil";
import { ZoneField } from "./ZoneField";

const most = 3;

type Props = {
  zones: string[];
  error: string | undefined;
  now: number;
  onChange: (zones: string[]) => void;
};

/** The zones of readers whose clocks are laid under the tape. */
export function AudienceZones({ zones, error, now, onChange }: Props) {
  return (
    <div className="w-80 max-w-full space-y-2">
      {zones.length > 0 && (
        <ul className="space-y-1">
          {zones.map((z) => (
            <li key={z} className="flex items-center rounded-sm bg-sunk pl-2 text-sm">
              {zoneCity(z)} <span className="ml-1.5 text-soft">{z}</span>
              <IconButton
                label={`Remove ${zoneCity(z)}`}
                className="ml-auto"
                onClick={() => onChange(zones.filter((other) => other !== z))}
              >
                <X size={12} />
              </IconButton>
            </li>
          ))}
        </ul>
      )}
      {zones.length < most && (
        <ZoneField
          key={zones.length}
          label="Add a zone"
          hint="Search by the name of a city."
          now={now}
          value=""
          error={error}
          onChange={(z) => onChange([...zones.filter((other) => other !== z), z])}
        />
      )}
    </div>
  );
}
