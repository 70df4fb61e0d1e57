import { X } from "lucide-react";
import { createContext, use, useCallback, useEffect, useMemo, useRef, useState, type ReactNode } from "react";
import { IconButton } from "./Button";

type Action = { name: string; go: () => void };

type Toast = { id: number; text: string; trouble: boolean; action?: Action | undefined };

type Say = {
  /** Tells of something done, with a way to take it back where there is one. */
  done: (text: string, action?: Action) => void;
  /** Tells of something that could not be done. */
  trouble: (error: unknown) => void;
};

const Context = createContext<Say | null>(null);

// In milliseconds. What can be taken back is offered for longer: there is something to decide.
const shownFor = { read: 6000, act: 12_000 };

/** Shows short notices at the foot of the screen, and reads them out. They stay while they are pointed at or focused. */
export function Toasts({ children }: { children: ReactNode }) {
  const [toasts, setToasts] = useState<Toast[]>([]);
  const [pointed, setPointed] = useState(false);
  const [focused, setFocused] = useState(false);
  const last = useRef(0);
  const drop = useCallback((id: number) => {
    setToasts((all) => all.filter((t) => t.id !== id));
    // What is gone is neither left nor blurred; who still reads the others moves or is in them anew.
    setPointed(false);
    setFocused(false);
  }, []);
  const show = useCallback((text: string, trouble: boolean, action?: Action) => {
    const id = ++last.current;
    setToasts((all) => [...all.slice(-3), { id, text, trouble, action }]);
  }, []);
  const say = useMemo<Say>(
    () => ({
      done: (text, action) => show(text, false, action),
      trouble: (error) => show(error instanceof Error ? error.message : String(error), true),
    }),
    [show],
  );
  return (
    <Context value={say}>
      {children}
      {/* Who points at a notice, or has gone into it by keys, is reading it. */}
      <div
        aria-live="polite"
        // A pointer that rests where a notice appears does not point at it.
        onPointerMove={(e) => {
          if (e.movementX !== 0 || e.movementY !== 0) setPointed(true);
        }}
        onPointerLeave={() => setPointed(false)}
        onFocus={() => setFocused(true)}
        onBlur={() => setFocused(false)}
        className="toasts pointer-events-none fixed inset-x-0 bottom-4 z-50 flex flex-col items-center gap-2 px-4"
      >
        {toasts.map((t) => (
          <Notice key={t.id} toast={t} held={pointed || focused} onGone={drop} />
        ))}
      </div>
    </Context>
  );
}

type NoticeProps = { toast: Toast; held: boolean; onGone: (id: number) => void };

function Notice({ toast: { id, text, trouble, action }, held, onGone }: NoticeProps) {
  // What went wrong stays until it is read.
  const stays = held || trouble;
  const time = action ? shownFor.act : shownFor.read;
  useEffect(() => {
    if (stays) return;
    const timer = setTimeout(() => onGone(id), time);
    return () => clearTimeout(timer);
  }, [stays, time, id, onGone]);
  return (
    <div
      className={`pointer-events-auto flex max-w-xl items-center gap-3 rounded-md py-1.5 pr-1.5 pl-4 text-sm shadow-lifted ${
        trouble ? "border border-madder bg-madder-wash text-madder" : "bg-ink text-ground"
      }`}
    >
      <span>{text}</span>
      {action && (
        <button
          type="button"
          className="rounded-sm px-1 font-semibold underline underline-offset-2"
          onClick={() => {
            onGone(id);
            action.go();
          }}
        >
          {action.name}
        </button>
      )}
      <IconButton label="Dismiss" className="text-inherit!" onClick={() => onGone(id)}>
        <X size={14} />
      </IconButton>
    </div>
  );
}

export function useSay(): Say {
  const say = use(Context);
  if (!say) throw new Error("useSay needs <Toasts> above it");
  return say;
}
