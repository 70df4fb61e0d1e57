import type { ReactNode } from "react";

/** One line of a form: what it is about, and its controls beside it. */
export function Line({ name, children, hint }: { name: string; children: ReactNode; hint?: string }) {
  return (
    <div className="grid grid-cols-[7.5rem_minmax(0,1fr)] max-md:grid-cols-1 items-start gap-2">
      <span className="pt-1.5 text-sm text-soft">{name}</span>
      <div>
        <div className="flex flex-wrap items-start gap-2">{children}</div>
        {hint && <p className="mt-1 text-xs text-faint">{hint}</p>}
      </div>
    </div>
  );
}

/** Words between controls. */
export function Words({ children }: { children: ReactNode }) {
  return <span className="pt-1.5 text-sm text-soft">{children}</span>;
}
