import { X } from "lucide-react";
import type { PointerEvent } from "react";
import {
  UNSTABLE_Toast as Toast,
  UNSTABLE_ToastContent as ToastContent,
  UNSTABLE_ToastList as ToastList,
  UNSTABLE_ToastRegion as ToastRegion,
} from "react-aria-components/Toast";
import type { ToastQueue } from "react-stately/useToastState";
import { IconButton } from "./Button";
import type { Notice } from "./toast";

/** Where the notices of a queue are shown; it closes them when their time is over. */
export function Region({ queue }: { queue: ToastQueue<Notice> }) {
  // A pointer that rests where a notice appears does not point at it; one that is moved over it does.
  const enter = (e: PointerEvent) => {
    if (!moved(e)) queueMicrotask(() => queue.resumeAll());
  };
  const move = (e: PointerEvent) => {
    if (moved(e)) queue.pauseAll();
  };
  return (
    <ToastRegion
      queue={queue}
      aria-label="Notices"
      onPointerEnter={enter}
      onPointerMove={move}
      className="toasts pointer-events-none fixed inset-x-0 bottom-4 z-50 px-4 outline-none"
    >
      <ToastList<Notice> className="flex flex-col items-center gap-2">
        {({ toast }) => (
          <Toast
            toast={toast}
            aria-label={toast.content.text}
            className={`pointer-events-auto flex max-w-xl items-center gap-3 rounded-md py-1.5 pr-1.5 pl-4 text-sm shadow-lifted ${
              toast.content.trouble ? "border border-madder bg-madder-wash text-madder" : "bg-ink text-ground"
            }`}
          >
            <Inside notice={toast.content} onGone={() => queue.close(toast.key)} />
          </Toast>
        )}
      </ToastList>
    </ToastRegion>
  );
}

const moved = (e: PointerEvent) => e.movementX !== 0 || e.movementY !== 0;

function Inside({ notice: { text, trouble, action }, onGone }: { notice: Notice; onGone: () => void }) {
  return (
    <>
      <ToastContent role={trouble ? "alert" : "status"}>{text}</ToastContent>
      {action && (
        <button
          type="button"
          className="rounded-sm px-1 font-semibold underline underline-offset-2"
          onClick={() => {
            onGone();
            action.go();
          }}
        >
          {action.name}
        </button>
      )}
      <IconButton label="Dismiss" className="text-inherit!" onClick={onGone}>
        <X size={14} />
      </IconButton>
    </>
  );
}
