import type { FormEvent, ReactNode } from "react";

type Props = { lead: ReactNode; onSubmit?: (event: FormEvent) => void; children: ReactNode };

/** The house seen from outside: what people see who are not signed in. */
export function Front({ lead, onSubmit, children }: Props) {
  return (
    <main className="grid min-h-screen grid-rows-[1fr_auto_2fr] justify-items-center px-4">
      <form onSubmit={onSubmit} className="row-start-2 w-full max-w-sm">
        <h1 className="font-title text-3xl">Dapper Almanac</h1>
        <TapeEdge />
        <div className="mb-5 text-soft">{lead}</div>
        <div className="space-y-4">{children}</div>
      </form>
    </main>
  );
}

/** A length of measuring tape, as a rule under the name. */
export function TapeEdge() {
  const ticks = Array.from({ length: 49 }, (_, i) => i);
  return (
    <svg viewBox="0 0 384 14" className="my-3 w-full text-ink" aria-hidden>
      <rect width="384" height="14" className="fill-tape" />
      {ticks.map((i) => (
        <line
          key={i}
          x1={i * 8}
          x2={i * 8}
          y1="14"
          y2={i % 6 === 0 ? 4 : 9}
          stroke="var(--tape-ink)"
          strokeWidth="1"
        />
      ))}
    </svg>
  );
}
