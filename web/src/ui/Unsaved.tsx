import { useEffect, useLayoutEffect } from "react";
import { useBlocker } from "react-router";
import { Button } from "./Button";
import { Sheet } from "./Sheet";

/** State of a navigation that goes on from a save: there is nothing to ask about. */
export const afterSave = { afterSave: true };

// What on the screen has changes that are not saved. A router can be held up by one place only, so all forms tell it.
const unsaved = new Map<object, string>();

/** Says that a form on the screen has changes that are not saved. */
export function Unsaved({ when, what }: { when: boolean; what: string }) {
  // Told in the same step in which it is drawn: whoever leaves right after a save is not asked.
  useLayoutEffect(() => {
    if (!when) return;
    const form = {};
    unsaved.set(form, what);
    return () => void unsaved.delete(form);
  }, [when, what]);
  return null;
}

/** Asks before one leaves a screen with changes that are not saved. */
export function UnsavedGuard() {
  const blocker = useBlocker(
    ({ currentLocation: from, nextLocation: to }) =>
      unsaved.size > 0 &&
      (from.pathname !== to.pathname || from.search !== to.search) &&
      !(to.state as Partial<typeof afterSave> | null)?.afterSave,
  );
  useEffect(() => {
    const ask = (event: BeforeUnloadEvent) => {
      if (unsaved.size > 0) event.preventDefault();
    };
    window.addEventListener("beforeunload", ask);
    return () => window.removeEventListener("beforeunload", ask);
  }, []);
  const what = new Intl.ListFormat("en-GB").format(unsaved.values());
  return (
    <Sheet
      open={blocker.state === "blocked"}
      onClose={() => blocker.reset?.()}
      title="Unsaved changes"
      actions={
        <>
          <Button
            look="trouble"
            onClick={() => {
              unsaved.clear(); // what is on its way out is not asked about again
              blocker.proceed?.();
            }}
          >
            Leave without saving
          </Button>
          <Button look="main" autoFocus onClick={() => blocker.reset?.()}>
            Keep editing
          </Button>
        </>
      }
    >
      <p>Your changes to {what} are not saved yet.</p>
    </Sheet>
  );
}
