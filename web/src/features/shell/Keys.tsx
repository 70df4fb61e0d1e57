import { lazy, Suspense, useEffect, useRef, useState } from "react";
import { useStepKeys } from "../logbook/steps";
import { commandsNow, keysOn, useCommands } from "../../ui/commands";

const Palette = lazy(() => import("./Palette"));
const KeySheet = lazy(() => import("./KeySheet"));

/** How long one may take for the second key, in milliseconds. */
const patience = 1200;

/** Listens for keys: Ctrl K opens the palette, the rest do what the screen offers. */
export function Keys({ site }: { site: string }) {
  // What is typed into the palette, if it is open.
  const [typed, setTyped] = useState<string>();
  const [sheet, setSheet] = useState(false);
  // Keys may come faster than anything is drawn.
  const palette = useRef(false);
  function open() {
    palette.current = true;
    setTyped((was) => was ?? "");
  }
  function close() {
    palette.current = false;
    setTyped(undefined);
  }
  useCommands([
    { name: "Find a command or a post…", group: "Help", keys: "Ctrl K", run: open },
    { name: "Keys", group: "Help", keys: "?", run: () => setSheet(true) },
  ]);
  useStepKeys(site);
  useEffect(() => {
    let first = "";
    let forget: number | undefined;
    function onKey(e: KeyboardEvent) {
      if (e.defaultPrevented) return; // the text has keys of its own
      // The palette may be on its way, or drawn and without the focus yet: what is typed is for it, and no command.
      if (palette.current && !(writes(e.target) && inDialog(e.target))) {
        const letter = e.key.length === 1 && !e.ctrlKey && !e.metaKey;
        if (letter) setTyped((was) => (was ?? "") + e.key);
        else if (e.key === "Backspace") setTyped((was) => was?.slice(0, -1));
        const drawn = document.querySelector('[role="dialog"]') !== null;
        if (!drawn && e.key === "Escape") close();
        if (letter || !drawn || e.key === "Backspace") return e.preventDefault();
      }
      if ((e.ctrlKey || e.metaKey) && !e.altKey && e.key.length === 1) {
        const key = e.key.toLowerCase();
        // Within a field, Ctrl Z is the field's own; behind a sheet nothing is to change unseen.
        if (key !== "k" && ((key !== "s" && writes(e.target)) || document.querySelector('[role="dialog"]')))
          return;
        const keys = `Ctrl ${e.shiftKey ? "Shift " : ""}${e.key.toUpperCase()}`;
        const command = commandsNow().find(
          (c) => c.keys === keys || (keys === "Ctrl Y" && c.keys === "Ctrl Shift Z"),
        );
        if (!command) return;
        e.preventDefault();
        command.run();
        return;
      }
      if (e.ctrlKey || e.metaKey || e.altKey || !keysOn() || writes(e.target)) return;
      if (e.key.length !== 1 || document.querySelector('[role="dialog"]')) return;
      window.clearTimeout(forget);
      const all = commandsNow();
      const both = first ? `${first} ${e.key}` : "";
      const command = all.find((c) => c.keys === both) ?? all.find((c) => c.keys === e.key);
      first = "";
      if (command) {
        e.preventDefault();
        command.run();
      } else if (all.some((c) => c.keys?.startsWith(`${e.key} `))) {
        first = e.key;
        forget = window.setTimeout(() => (first = ""), patience);
      }
    }
    window.addEventListener("keydown", onKey);
    return () => {
      window.removeEventListener("keydown", onKey);
      window.clearTimeout(forget);
    };
  }, []);
  return (
    <Suspense fallback={null}>
      {typed !== undefined && <Palette site={site} typed={typed} onType={setTyped} onClose={close} />}
      {sheet && <KeySheet onClose={() => setSheet(false)} />}
    </Suspense>
  );
}

const inDialog = (target: EventTarget | null) =>
  target instanceof Element && target.closest('[role="dialog"]');

/** Whether keys are letters there, and not commands. */
function writes(target: EventTarget | null): boolean {
  return (
    target instanceof HTMLElement &&
    (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName))
  );
}
