/** Keys as they are pressed, one after the other. */
export function KeyNames({ keys }: { keys: string }) {
  return (
    <span className="flex shrink-0 gap-1">
      {keys.split(/ (?!\+)(?<!\+ )/).map((key, i) => (
        <kbd
          key={i}
          className="min-w-5 rounded-sm border border-strong bg-ground px-1 text-center font-sans text-xs text-ink"
        >
          {key}
        </kbd>
      ))}
    </span>
  );
}
