import { Dialog, DialogBackdrop, DialogPanel, DialogTitle } from "@headlessui/react";
import { useEffect, useRef, type ReactNode } from "react";

type Props = {
  open: boolean;
  onClose: () => void;
  title: string;
  /** Whether it takes most of the window's width. */
  wide?: boolean;
  children: ReactNode;
  actions: ReactNode;
};

/** A dialog that shows what is about to happen before it does. */
export function Sheet({ open, onClose, title, wide = false, children, actions }: Props) {
  useEffect(() => {
    if (!open) return;
    // What is said moves aside: it would lie over the sheet's own buttons.
    document.documentElement.dataset.sheet = "";
    return () => void delete document.documentElement.dataset.sheet;
  }, [open]);
  return (
    <Dialog open={open} onClose={onClose} className="relative z-40">
      <DialogBackdrop className="fixed inset-0 bg-veil" />
      <div className="fixed inset-0 flex items-start justify-center p-4 pt-[8vh] max-sm:p-0">
        <DialogPanel
          className={`flex max-h-[84vh] w-full ${wide ? "max-w-5xl" : "max-w-2xl"} flex-col rounded-md border border-strong bg-sheet shadow-lifted max-sm:h-full max-sm:max-h-full max-sm:rounded-none max-sm:border-0`}
        >
          <DialogTitle className="border-b border-line px-5 py-3 font-title text-xl">{title}</DialogTitle>
          <Scrolled title={title}>{children}</Scrolled>
          <div className="flex flex-wrap justify-end gap-2 border-t border-line px-5 py-3">{actions}</div>
        </DialogPanel>
      </div>
    </Dialog>
  );
}

/** What is longer than its place, and holds nothing that takes the focus, takes it itself, so that keys scroll it. */
function Scrolled({ title, children }: { title: string; children: ReactNode }) {
  const place = useRef<HTMLDivElement>(null);
  useEffect(() => {
    const el = place.current;
    if (!el) return;
    const look = () => {
      const stuck =
        el.scrollHeight > el.clientHeight && !el.querySelector("a[href], button, input, select, textarea");
      if (stuck) el.setAttribute("tabindex", "0");
      else el.removeAttribute("tabindex");
    };
    look();
    const sizes = new ResizeObserver(look);
    sizes.observe(el);
    for (const child of el.children) sizes.observe(child);
    return () => sizes.disconnect();
  });
  return (
    <div ref={place} role="region" aria-label={title} className="min-h-0 flex-1 overflow-y-auto px-5 py-4">
      {children}
    </div>
  );
}
