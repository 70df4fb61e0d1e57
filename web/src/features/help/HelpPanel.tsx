import { X } from "lucide-react";
import { useEffect, useRef, type MouseEvent } from "react";
import { IconButton } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { Trouble } from "../../ui/Trouble";
import { Waiting } from "../../ui/Waiting";
import { showGuide, useGuidePage, useGuidePages, type Place } from "./help";
import "./help.css";

/** A page of the guide beside the work. */
export default function HelpPanel({ place }: { place: Place }) {
  const page = useGuidePage(place.page);
  const pages = useGuidePages();
  const text = useRef<HTMLDivElement>(null);
  useEffect(() => {
    const at =
      place.section && text.current?.querySelector<HTMLElement>(`[id="${CSS.escape(place.section)}"]`);
    // The page behind it stays where it is.
    text.current?.scrollTo({ top: at ? at.offsetTop - 12 : 0 });
  }, [place, page.data]);

  /** Links of the guide lead to other pages of it. */
  function follow(event: MouseEvent) {
    const link = (event.target as HTMLElement).closest("a");
    const to = link?.getAttribute("href");
    if (!to?.startsWith("#")) return;
    event.preventDefault();
    const [name = "", section] = to.slice(1).split("/");
    if (name) showGuide({ page: name, section });
  }

  return (
    <aside
      aria-label="Guide"
      className="sticky top-0 flex h-screen w-88 shrink-0 flex-col border-l border-line bg-sheet max-xl:fixed max-xl:inset-y-0 max-xl:right-0 max-xl:z-40 max-xl:w-full max-xl:max-w-md max-xl:shadow-lifted print:hidden"
    >
      <div className="flex items-center gap-2 border-b border-line px-4 py-2">
        <div className="min-w-0 flex-1">
          <Choice
            label="Page of the guide"
            value={place.page}
            options={(pages.data ?? []).map((p) => ({ value: p.page, name: p.title }))}
            onChange={(name) => showGuide({ page: name })}
          />
        </div>
        <IconButton label="Close the guide" onClick={() => showGuide(undefined)}>
          <X size={16} />
        </IconButton>
      </div>
      {page.isPending && <Waiting what="the guide" />}
      {page.error && <Trouble error={page.error} retry={() => void page.refetch()} />}
      {page.data && (
        // eslint-disable-next-line jsx-a11y/click-events-have-key-events, jsx-a11y/no-noninteractive-element-interactions -- the links in it take keys
        <div
          ref={text}
          role="region"
          aria-label={page.data.title}
          // eslint-disable-next-line jsx-a11y/no-noninteractive-tabindex -- so that keys scroll it
          tabIndex={0}
          onClick={follow}
          className="guide relative min-h-0 flex-1 overflow-y-auto px-5 py-4"
        >
          <h2>{page.data.title}</h2>
          {/* It is our own text, rendered by the server from files that ship with it. */}
          <div dangerouslySetInnerHTML={{ __html: page.data.html }} />
        </div>
      )}
    </aside>
  );
}
