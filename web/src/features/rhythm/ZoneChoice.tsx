const zones = Intl.supportedValuesOf("timeZone").map((z) => <option key={z}>{z}</option>);

type Props = { zone: string | undefined; onChange: (zone: string | undefined) => void };

/** The zone of readers elsewhere; none: the site's own. */
export function ZoneChoice({ zone, onChange }: Props) {
  return (
    <label className="block">
      <span className="mb-1 block text-sm text-soft">By the clocks of</span>
      <select
        value={zone ?? ""}
        onChange={(e) => onChange(e.target.value || undefined)}
        className="h-8 w-full rounded-md border border-strong bg-sheet px-2 text-base"
      >
        <option value="">The site</option>
        {zones}
      </select>
    </label>
  );
}
