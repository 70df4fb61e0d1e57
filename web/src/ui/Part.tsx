import type { ReactNode } from "react";

/** A part of a screen of settings: what it is about on the left, its fields on the right. */
export function Part({ title, hint, children }: { title: string; hint?: string; children: ReactNode }) {
  return (
    <section
      aria-label={title}
      className="mb-3 grid gap-x-6 gap-y-2 border-t border-line pt-3 md:grid-cols-[14rem_1fr]"
    >
      <div>
        <h2 className="text-base font-semibold">{title}</h2>
        {hint && <p className="mt-1 text-xs text-soft">{hint}</p>}
      </div>
      <div className="min-w-0">{children}</div>
    </section>
  );
}
