import { X } from "lucide-react";
import { useEffect, useRef, type ReactNode } from "react";
import { IconButton } from "../../ui/Button";
import { cameByKeysFrom, goBackTo } from "../../ui/cameFrom";
import { useSteady } from "../../ui/useSteady";

/** Whatever opens a panel when it is chosen: what stands in the plan, and on the shelf. */
const openers = ["Plan", "Shelf"];

/**
 * What was chosen, in place of the shelf. Who chose it by keys goes on in it: the focus is on its heading, and so it
 * is read out, and goes back to what was chosen when it closes. Escape closes it.
 */
export function Panel({
  title,
  onClose,
  children,
}: {
  title: string;
  onClose: () => void;
  children: ReactNode;
}) {
  const heading = useRef<HTMLHeadingElement>(null);
  const close = useSteady(onClose);
  useEffect(() => {
    const from = cameByKeysFrom();
    // What was opened by its address leaves the focus where it is.
    if (!from || !openers.includes(from.within)) return;
    heading.current?.focus({ preventScroll: true });
    return () => goBackTo(from);
  }, []);
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if (e.key === "Escape" && !e.defaultPrevented) close();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [close]);
  return (
    <div className="rounded-md border border-line bg-sheet">
      <div className="flex items-center justify-between border-b border-line py-1 pr-1 pl-4">
        <h2 ref={heading} tabIndex={-1} className="text-sm font-semibold text-soft">
          {title}
        </h2>
        <IconButton label="Close and show the shelf" onClick={onClose}>
          <X size={16} />
        </IconButton>
      </div>
      <div className="space-y-4 px-4 py-3">{children}</div>
    </div>
  );
}
