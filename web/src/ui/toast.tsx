import { createContext, use, useEffect, useState, type ReactNode } from "react";
import { ToastQueue } from "react-stately/useToastState";

type Action = { name: string; go: () => void };

export type Notice = { text: string; trouble: boolean; action?: Action | undefined };

type Say = {
  /** Tells of something done, with a way to take it back where there is one. */
  done: (text: string, action?: Action) => void;
  /** Tells of something that could not be done. */
  trouble: (error: unknown) => void;
};

const Context = createContext<Say | null>(null);

// In milliseconds. What can be taken back is offered for longer: there is something to decide.
const shownFor = { read: 6000, act: 12_000 };

/** How many are shown at once; older ones come back when newer ones go. */
const most = 4;

function newSay(queue: ToastQueue<Notice>): Say {
  return {
    done: (text, action) =>
      void queue.add({ text, trouble: false, action }, { timeout: action ? shownFor.act : shownFor.read }),
    // What went wrong stays until it is read.
    trouble: (error) =>
      void queue.add({ text: error instanceof Error ? error.message : String(error), trouble: true }),
  };
}

/**
 * Shows short notices at the foot of the screen, and reads them out. They stay while they are pointed at or focused; F6
 * goes to them, and when the last is closed the focus is back where it was.
 */
export function Toasts({ children }: { children: ReactNode }) {
  const [queue] = useState(() => new ToastQueue<Notice>({ maxVisibleToasts: most }));
  const [say] = useState(() => newSay(queue));
  const region = useRegion(queue);
  return (
    <Context value={say}>
      {children}
      {region}
    </Context>
  );
}

/** How long it takes until what did not come is fetched again, in milliseconds. */
const again = 5000;

/** What shows the notices. Its code comes after the first screen's, and is asked for until it is here. */
function useRegion(queue: ToastQueue<Notice>): ReactNode {
  const [region, setRegion] = useState<ReactNode>();
  useEffect(() => {
    let timer: number | undefined;
    const load = () => {
      import("./ToastRegion").then(
        ({ Region }) => setRegion(<Region queue={queue} />),
        () => (timer = window.setTimeout(load, again)),
      );
    };
    load();
    return () => window.clearTimeout(timer);
  }, [queue]);
  return region;
}

export function useSay(): Say {
  const say = use(Context);
  if (!say) throw new Error("useSay needs <Toasts> above it");
  return say;
}
