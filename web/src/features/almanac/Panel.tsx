import { X } from "lucide-react";
import { useEffect, type ReactNode } from "react";
import { IconButton } from "../../ui/Button";

/** What was chosen, in place of the shelf. Escape closes it. */
export function Panel({
  title,
  onClose,
  children,
}: {
  title: string;
  onClose: () => void;
  children: ReactNode;
}) {
  useEffect(() => {
    const close = (e: KeyboardEvent) => {
      if (e.key === "Escape" && !e.defaultPrevented) onClose();
    };
    window.addEventListener("keydown", close);
    return () => window.removeEventListener("keydown", close);
  }, [onClose]);
  return (
    <div className="rounded-md border border-line bg-sheet">
      <div className="flex items-center justify-between border-b border-line py-1 pr-1 pl-4">
        <h2 className="text-sm font-semibold text-soft">{title}</h2>
        <IconButton label="Close and show the shelf" onClick={onClose}>
          <X size={16} />
        </IconButton>
      </div>
      <div className="space-y-4 px-4 py-3">{children}</div>
    </div>
  );
}
