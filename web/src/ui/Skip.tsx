import type { ReactNode } from "react";

type Props = {
  /** Where it leads, as a CSS selector. */
  to: string;
  className?: string;
  children: ReactNode;
};

/** Seen only by who comes to it by keys: past what lies between, to what is meant. */
export function Skip({ to, className = "", children }: Props) {
  return (
    <button
      type="button"
      onClick={() => {
        const place = document.querySelector<HTMLElement>(to);
        if (!place) return;
        if (place.tabIndex < 0) place.tabIndex = -1;
        place.focus();
      }}
      className={`sr-only focus:not-sr-only focus:rounded-md focus:bg-sheet focus:px-3 focus:py-2 ${className}`}
    >
      {children}
    </button>
  );
}
