/** Shown while something is on its way; says what. It stays blank for a moment, so that short waits do not flicker. */
export function Waiting({ what }: { what: string }) {
  return (
    <p role="status" className="animate-[appear_0.3s_0.4s_both] px-6 pt-24 text-center text-soft">
      Loading {what}…
    </p>
  );
}
