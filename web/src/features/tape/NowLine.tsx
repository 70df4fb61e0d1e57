import { clock } from "../../ui/civil";
import { share } from "../plan/layout";
import { useNow, type ServerNow } from "../plan/now";

/** The present moment on the ruler, with its time. */
export function NowTab({ now: told }: { now: ServerNow }) {
  const now = useNow(told);
  if (!now) return null;
  return (
    <div aria-hidden className="pointer-events-none absolute inset-y-0 right-2 left-0">
      <span
        data-now
        className="absolute bottom-0 z-10 -translate-x-1/2 rounded-sm bg-tape px-1 text-xs font-semibold text-tape-ink"
        style={{ left: share(now.minute) }}
      >
        {clock(now.minute)}
      </span>
    </div>
  );
}

/** The present moment in today's row; it moves. */
export function NowLine({ now: told }: { now: ServerNow }) {
  const now = useNow(told);
  if (!now) return null;
  return (
    <span
      aria-hidden
      data-now
      className="pointer-events-none absolute -top-px bottom-0 z-10 w-[3px] -translate-x-px bg-tape outline outline-1 outline-tape-ink/40"
      style={{ left: share(now.minute) }}
    />
  );
}
