import { createContext, type KeyboardEvent, type PointerEvent } from "react";
import { addDays, clock } from "../../ui/civil";
import { shownDate } from "../../ui/siteClock";
import type { DeedMark } from "../plan/marks";
import { isMovable } from "../plan/markDeeds";

/** What is done with marks that are taken in hand; undefined: they stay where they are. */
export type MarkHand = {
  move: (mark: DeedMark, date: string, minute: number) => void;
  leaveOut: (mark: DeedMark) => void;
};

export const MarkHandContext = createContext<MarkHand | undefined>(undefined);

/** Where a mark that is held would come down. */
export type Aim = { date: string; minute: number };

export const aimOf = (mark: DeedMark): Aim => ({ date: mark.date, minute: mark.minute });

export const aimWords = ({ date, minute }: Aim) => `${shownDate(date)}, ${clock(minute)}`;

const within = (minute: number) => Math.min(1439, Math.max(0, Math.round(minute)));

/** Where a key moves a mark that is held: 5 minutes or a day; with Shift a minute or a week. */
export function steered(aim: Aim, key: string, shift: boolean): Aim | undefined {
  switch (key) {
    case "ArrowLeft":
      return { ...aim, minute: within(aim.minute - (shift ? 1 : 5)) };
    case "ArrowRight":
      return { ...aim, minute: within(aim.minute + (shift ? 1 : 5)) };
    case "ArrowUp":
      return { ...aim, date: addDays(aim.date, shift ? -7 : -1) };
    case "ArrowDown":
      return { ...aim, date: addDays(aim.date, shift ? 7 : 1) };
  }
  return undefined;
}

/** How far the pointer goes before a press becomes a drag, and before a drag changes the time. */
const slack = 5;
const straight = 8;

type Set = (aim: Aim | undefined) => void;

/** What the keys do on a mark: h holds it, arrows move it, Enter puts it down, Escape lets it be; Delete leaves it out. */
export function onMarkKey(
  e: KeyboardEvent<HTMLElement>,
  mark: DeedMark,
  hand: MarkHand,
  aim: Aim | undefined,
  set: Set,
) {
  if (!isMovable(mark) || e.ctrlKey || e.metaKey || e.altKey) return;
  if (!aim) {
    if (e.key === "h") set(aimOf(mark));
    else if (e.key === "Delete") hand.leaveOut(mark);
    else return;
  } else if (e.key === "Escape") set(undefined);
  else if (e.key === "Enter") {
    set(undefined);
    hand.move(mark, aim.date, aim.minute);
  } else {
    const next = steered(aim, e.key, e.shiftKey);
    if (next) set(next);
    else return;
  }
  e.preventDefault();
  e.stopPropagation();
}

/** Drags a mark along the tape and over its days. */
export function onMarkPress(e: PointerEvent<HTMLElement>, mark: DeedMark, hand: MarkHand, set: Set) {
  if (!isMovable(mark) || e.button !== 0 || e.pointerType === "touch") return;
  const grip = e.currentTarget;
  const width = grip.closest("[data-tape]")?.getBoundingClientRect().width ?? 0;
  const start = { x: e.clientX, y: e.clientY };
  let aim: Aim | undefined;
  const move = (to: globalThis.PointerEvent) => {
    const dx = to.clientX - start.x;
    if (!aim && Math.hypot(dx, to.clientY - start.y) < slack) return;
    if (!aim) grip.setPointerCapture(e.pointerId);
    const date =
      document
        .elementsFromPoint(to.clientX, to.clientY)
        .map((el) => el.closest<HTMLElement>("[data-day]")?.dataset.day)
        .find(Boolean) ?? mark.date;
    const minute =
      width > 0 && Math.abs(dx) >= straight ? within(mark.minute + (dx / width) * 1440) : mark.minute;
    aim = { date, minute };
    set(aim);
  };
  const end = (put: boolean) => {
    window.removeEventListener("pointermove", move);
    window.removeEventListener("pointerup", up);
    window.removeEventListener("pointercancel", cancel);
    window.removeEventListener("keydown", escape, true);
    if (!aim) return;
    // The click that ends a drag is not meant for the mark.
    const swallow = (click: Event) => {
      click.preventDefault();
      click.stopPropagation();
    };
    grip.addEventListener("click", swallow, { capture: true, once: true });
    window.setTimeout(() => grip.removeEventListener("click", swallow, true));
    set(undefined);
    if (put && (aim.date !== mark.date || aim.minute !== mark.minute)) hand.move(mark, aim.date, aim.minute);
  };
  const up = () => end(true);
  const cancel = () => end(false);
  const escape = (key: globalThis.KeyboardEvent) => {
    if (key.key === "Escape") end(false);
  };
  window.addEventListener("pointermove", move);
  window.addEventListener("pointerup", up);
  window.addEventListener("pointercancel", cancel);
  window.addEventListener("keydown", escape, true);
}
