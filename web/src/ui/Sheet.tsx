import { Dialog, DialogBackdrop, DialogPanel, DialogTitle } from "@headlessui/react";
import type { ReactNode } from "react";

type Props = { open: boolean; onClose: () => void; title: string; children: ReactNode; actions: ReactNode };

/** A dialog that shows what is about to happen before it does. */
export function Sheet({ open, onClose, title, children, actions }: Props) {
  return (
    <Dialog open={open} onClose={onClose} className="relative z-40">
      <DialogBackdrop className="fixed inset-0 bg-veil" />
      <div className="fixed inset-0 flex items-start justify-center p-4 pt-[8vh]">
        <DialogPanel className="flex max-h-[84vh] w-full max-w-2xl flex-col rounded-md border border-strong bg-sheet shadow-lifted">
          <DialogTitle className="border-b border-line px-5 py-3 font-title text-xl">{title}</DialogTitle>
          <div className="min-h-0 flex-1 overflow-y-auto px-5 py-4">{children}</div>
          <div className="flex justify-end gap-2 border-t border-line px-5 py-3">{actions}</div>
        </DialogPanel>
      </div>
    </Dialog>
  );
}
