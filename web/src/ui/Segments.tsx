import { useRoving } from "./useRoving";

type Props<T extends string> = {
  label: string;
  value: T;
  options: readonly { readonly value: T; readonly name: string }[];
  onChange: (value: T) => void;
};

/** A few ways to look at the same thing, of which one is taken. */
export function Segments<T extends string>({ label, value, options, onChange }: Props<T>) {
  const roving = useRoving(options.findIndex((o) => o.value === value));
  return (
    <div
      {...roving.group}
      role="toolbar"
      aria-label={label}
      className="inline-flex rounded-md border border-strong"
    >
      {options.map((o, i) => (
        <button
          key={o.value}
          type="button"
          tabIndex={roving.tabIndex(i)}
          aria-pressed={o.value === value}
          onClick={() => onChange(o.value)}
          className={`h-7.5 border-r border-line px-2 text-sm whitespace-nowrap first:rounded-l-[5px] last:rounded-r-[5px] last:border-r-0 focus-visible:z-10 ${o.value === value ? "bg-ink text-ground" : "text-soft hover:bg-sunk"}`}
        >
          {o.name}
        </button>
      ))}
    </div>
  );
}
