import { Disclosure, DisclosureButton, DisclosurePanel } from "@headlessui/react";
import { ChevronRight } from "lucide-react";
import type { ReactNode } from "react";

type Props = {
  title: string;
  summary: ReactNode;
  open?: boolean;
  trouble?: boolean;
  children: ReactNode;
};

/** A part that shows one line of what is in it until it is opened. */
export function Fold({ title, summary, open = false, trouble = false, children }: Props) {
  return (
    <Disclosure as="section" aria-label={title} defaultOpen={open} className="border-b border-line text-sm">
      <DisclosureButton className="group flex w-full items-start gap-1.5 py-2 text-left data-hover:text-ink">
        <ChevronRight
          size={14}
          aria-hidden
          className="mt-0.5 shrink-0 text-soft group-data-open:rotate-90 motion-safe:transition-transform"
        />
        <span className="min-w-0 flex-1">
          <span className={`font-semibold ${trouble ? "text-madder" : ""}`}>{title}</span>
          <span className="block truncate text-soft group-data-open:hidden">{summary}</span>
        </span>
      </DisclosureButton>
      <DisclosurePanel className="space-y-2 pb-3 pl-5">{children}</DisclosurePanel>
    </Disclosure>
  );
}
