import { share } from "../plan/layout";
import { useGround } from "./held";

/** While something is held: where on this day it may not come down. */
export function RowGround({ date }: { date: string }) {
  const ground = useGround(date);
  if (!ground) return null;
  if (ground.bar) return <Barred why={ground.bar} />;
  return ground.shadows.map((s) => (
    <span
      key={s.from}
      aria-hidden
      className="shadowed pointer-events-none absolute inset-y-0"
      style={{ left: share(s.from), width: share(s.to - s.from) }}
    />
  ));
}

/** While something is held: a day on which it may not come down at all. */
export function DayGroundMark({ date }: { date: string }) {
  const bar = useGround(date)?.bar;
  return bar ? <Barred why={bar} /> : null;
}

function Barred({ why }: { why: string }) {
  return (
    <span
      aria-hidden
      className="shadowed pointer-events-none absolute inset-0 z-[4] flex items-end justify-end p-1"
    >
      <span className="rounded-sm bg-sheet px-1 text-xs text-soft">{why}</span>
    </span>
  );
}
