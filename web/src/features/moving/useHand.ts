import { useEffect, useRef, type RefObject } from "react";
import { clock } from "../../ui/civil";
import { shownDate } from "../../ui/siteClock";
import { addDays } from "../../ui/civil";
import { heldNow, landsOn, setHeld, type Held } from "./held";
import { liftedWords } from "./keys";
import { groundOf } from "./moves";

/** Where the held posts would come down. */
export type Aim =
  { on: "day"; date: string; minute?: number | undefined } | { on: "shelf"; before?: number | undefined };

type Settings = {
  site: string;
  enabled: boolean;
  posts: Map<number, Held>;
  picked: ReadonlySet<number>;
  /** The days that are shown. */
  from: string;
  days: number;
  onPick: (id: number) => void;
  onDrop: (posts: Held[], aim: Aim) => void;
};

/** How far the pointer goes before a press becomes a drag, and before a drag across a day changes the time. */
const slack = 5;
/** How long a finger rests on a post until it lifts it, in milliseconds. */
const restsFor = 300;
const straight = 8;
/** How near to the window's edge the page begins to scroll, and by how much a frame. */
const edge = 48;
const scrollStep = 14;
/** The label's size is fixed: it is not measured while it follows the hand. */
const labelSize = { width: 288, height: 44 };

/**
 * Posts taken in hand: by the pointer, or by keys (h, arrows, Enter, Escape). Whatever has data-post inside the root
 * can be held; data-day, data-tape and data-shelf say where it can come down. Its data-hand parts follow the hand; they are moved without React.
 */
export function useHand(root: RefObject<HTMLElement | null>, settings: Settings) {
  const now = useRef(settings);
  useEffect(() => {
    now.current = settings;
  });
  useEffect(() => {
    const element = root.current;
    if (!element) return;
    const hand = new Hand(element, () => now.current);
    element.addEventListener("pointerdown", hand.press);
    element.addEventListener("keydown", hand.key);
    element.addEventListener("click", hand.click, true);
    element.addEventListener("dragstart", hand.noDrag);
    element.addEventListener("touchstart", hand.touch, { passive: true });
    element.addEventListener("touchmove", hand.still, { passive: false });
    element.addEventListener("contextmenu", hand.still);
    return () => {
      hand.release();
      element.removeEventListener("pointerdown", hand.press);
      element.removeEventListener("keydown", hand.key);
      element.removeEventListener("click", hand.click, true);
      element.removeEventListener("dragstart", hand.noDrag);
      element.removeEventListener("touchstart", hand.touch);
      element.removeEventListener("touchmove", hand.still);
      element.removeEventListener("contextmenu", hand.still);
    };
  }, [root]);
}

class Hand {
  private start:
    { x: number; y: number; post: Held; width: number; grip: HTMLElement; pointer: number } | undefined;
  private at = { x: 0, y: 0 };
  private aim: Aim | undefined;
  private frame: number | undefined;
  private by: "pointer" | "keys" | undefined;
  private justDropped = false;
  /** A finger that lies on a post and has not lifted it yet. */
  private resting: number | undefined;

  private readonly label: HTMLElement;
  private readonly line: HTMLElement;
  private readonly box: HTMLElement;
  private readonly said: HTMLElement;

  constructor(
    root: HTMLElement,
    private readonly settings: () => Settings,
  ) {
    const part = (name: string) => root.querySelector<HTMLElement>(`:scope > [data-hand="${name}"]`)!;
    this.label = part("label");
    this.line = part("line");
    this.box = part("box");
    this.said = part("said");
  }

  readonly noDrag = (e: Event) => e.preventDefault();

  readonly press = (e: PointerEvent) => {
    const post = this.postOf(e.target);
    if (!post || e.button !== 0 || !e.isPrimary || this.by) return;
    const tape = (e.target as Element).closest("[data-tape]");
    const grip = (e.target as Element).closest<HTMLElement>("[data-post]")!;
    const width = tape?.getBoundingClientRect().width ?? 0;
    this.start = { x: e.clientX, y: e.clientY, post, width, grip, pointer: e.pointerId };
    this.at = { x: e.clientX, y: e.clientY };
    // A finger that moves at once scrolls the page; one that rests lifts.
    const touch = e.pointerType === "touch";
    this.resting = touch ? window.setTimeout(this.rested, restsFor) : undefined;
    window.addEventListener("pointermove", this.move);
    window.addEventListener("pointerup", this.up);
    window.addEventListener("pointercancel", this.release);
    window.addEventListener("keydown", this.steer, true);
  };

  readonly click = (e: MouseEvent) => {
    if (this.justDropped) {
      e.preventDefault();
      e.stopPropagation();
      return;
    }
    const post = this.postOf(e.target);
    if (post && (e.ctrlKey || e.metaKey || e.shiftKey)) {
      e.preventDefault();
      e.stopPropagation();
      this.settings().onPick(post.id);
    }
  };

  /** Keys on a post that is not held. */
  readonly key = (e: KeyboardEvent) => {
    const post = this.postOf(e.target);
    if (!post || this.by || e.ctrlKey || e.metaKey || e.altKey || e.defaultPrevented) return;
    if (e.key === "x") this.settings().onPick(post.id);
    else if (e.key === "Delete" && !post.draft)
      this.settings().onDrop(this.withPicked(post), { on: "shelf" });
    else if (e.key === "h") this.takeByKeys(post);
    else return;
    e.preventDefault();
    e.stopPropagation();
  };

  readonly release = () => {
    window.removeEventListener("pointermove", this.move);
    window.removeEventListener("pointerup", this.up);
    window.removeEventListener("pointercancel", this.release);
    window.removeEventListener("keydown", this.steer, true);
    if (this.frame !== undefined) cancelAnimationFrame(this.frame);
    window.clearTimeout(this.resting);
    this.start?.grip.style.removeProperty("cursor");
    this.frame = this.start = this.aim = undefined;
    if (!this.by) return;
    this.by = undefined;
    for (const el of document.querySelectorAll("[data-lifted]")) el.removeAttribute("data-lifted");
    this.hide();
    setHeld(undefined);
  };

  private postOf(target: EventTarget | null): Held | undefined {
    const { enabled, posts } = this.settings();
    if (!enabled || !(target instanceof Element)) return undefined;
    const id = Number(target.closest<HTMLElement>("[data-post]")?.dataset.post);
    return posts.get(id);
  }

  /** The post, first, with all that are picked if it is one of them. */
  private withPicked(post: Held): Held[] {
    const { picked, posts } = this.settings();
    if (!picked.has(post.id)) return [post];
    return [post, ...[...picked].filter((id) => id !== post.id).flatMap((id) => posts.get(id) ?? [])];
  }

  private take(post: Held, by: "pointer" | "keys") {
    this.by = by;
    const { site, from, days } = this.settings();
    const posts = this.withPicked(post);
    setHeld({ posts, ground: new Map() });
    for (const p of posts)
      for (const el of document.querySelectorAll(`[data-post="${p.id}"]`)) el.setAttribute("data-lifted", "");
    groundOf(
      site,
      posts.map((p) => p.id),
      from,
      days,
    ).then(
      (ground) => {
        if (!this.by || heldNow().posts !== posts) return;
        setHeld({ posts, ground });
        const said = this.said.textContent;
        this.draw();
        if (said === liftedWords(posts[0]?.title ?? "")) this.said.textContent = said;
      },
      () => undefined, // without the shadows one can still drop; the server says no where it must
    );
  }

  private readonly move = (e: PointerEvent) => {
    this.at = { x: e.clientX, y: e.clientY };
    const start = this.start;
    if (!start) return;
    if (!this.by) {
      if (Math.hypot(e.clientX - start.x, e.clientY - start.y) < slack) return;
      if (e.pointerType === "touch") return this.release();
      this.lift(start);
    }
    this.frame ??= requestAnimationFrame(this.follow);
  };

  private lift({ grip, pointer, post }: NonNullable<typeof this.start>) {
    // What lies under the hand does not light up, and the hand shows that it holds.
    grip.setPointerCapture(pointer);
    grip.style.cursor = "grabbing";
    this.take(post, "pointer");
  }

  private readonly rested = () => {
    if (!this.start || this.by) return;
    this.lift(this.start);
    navigator.vibrate?.(15);
    this.frame ??= requestAnimationFrame(this.follow);
  };

  /** A finger that stops a page which is still rolling only stops it: the browser would not let go of the scrolling. */
  readonly touch = (e: TouchEvent) => {
    if (!e.cancelable) window.clearTimeout(this.resting);
  };

  /** While a finger holds something, the page does not scroll under it and no menu comes up. */
  readonly still = (e: Event) => {
    if (this.by === "pointer") e.preventDefault();
  };

  private readonly follow = () => {
    this.frame = undefined;
    if (this.by !== "pointer") return;
    const { y } = this.at;
    const scroll = y < edge ? -scrollStep : y > window.innerHeight - edge ? scrollStep : 0;
    if (scroll) {
      window.scrollBy(0, scroll);
      this.frame = requestAnimationFrame(this.follow);
    }
    this.aim = this.aimAtPointer();
    this.draw();
  };

  private readonly up = () => {
    const posts = heldNow().posts;
    if (this.by === "pointer") this.aim = this.aimAtPointer();
    if (this.by) {
      // The click that ends a drag, or the Enter, is not meant for what lies there.
      this.justDropped = true;
      window.setTimeout(() => (this.justDropped = false), this.by === "keys" ? 100 : 0);
    }
    const aim = this.by ? this.aim : undefined;
    this.release();
    if (aim) this.settings().onDrop(posts, aim);
  };

  private aimAtPointer(): Aim | undefined {
    const { x, y } = this.at;
    const start = this.start;
    const under = document.elementFromPoint(x, y);
    if (!start || !under) return undefined;
    const row = under.closest<HTMLElement>("[data-shelf-row]");
    if (row) {
      const box = row.getBoundingClientRect();
      const place = Number(row.dataset.shelfRow);
      return { on: "shelf", before: y > box.top + box.height / 2 ? place + 1 : place };
    }
    if (under.closest("[data-shelf]")) return { on: "shelf" };
    const day = under.closest<HTMLElement>("[data-day]");
    const date = day?.dataset.day;
    if (!day || !date) return undefined;
    const tape = day.querySelector("[data-tape]")?.getBoundingClientRect();
    if (!tape || x < tape.left || x > tape.right) return { on: "day", date };
    // A post that hangs on the tape goes by as much as the hand does; another comes down at the hand.
    const { post, width } = start;
    if (width > 0 && post.minute !== undefined) {
      const dx = x - start.x;
      if (Math.abs(dx) < straight) return { on: "day", date };
      return { on: "day", date, minute: within(post.minute + (dx / tape.width) * 1440) };
    }
    return { on: "day", date, minute: within(((x - tape.left) / tape.width) * 1440) };
  }

  private takeByKeys(post: Held) {
    window.addEventListener("keydown", this.steer, true);
    this.take(post, "keys");
    this.aim = { on: "day", date: post.date ?? this.settings().from };
    this.draw();
    // First what the keys do; then, with each key, where it is.
    this.said.textContent = liftedWords(post.title);
  }

  /** Keys while something is held. */
  private readonly steer = (e: KeyboardEvent) => {
    if (!this.by) return;
    if (e.key === "Escape") {
      e.preventDefault();
      e.stopPropagation();
      this.said.textContent = "Cancelled. It stays where it was.";
      this.release();
      return;
    }
    if (this.by !== "keys") return;
    e.preventDefault();
    e.stopPropagation();
    const post = heldNow().posts[0];
    const aim = this.aim;
    if (!post || aim?.on !== "day") return;
    const step = e.shiftKey ? 15 : 1;
    const minute = aim.minute ?? post.minute ?? 9 * 60;
    if (e.key === "Enter") this.up();
    else if (e.key === "Delete") {
      this.aim = { on: "shelf" };
      this.up();
    } else if (e.key === "ArrowUp") this.aim = { ...aim, date: addDays(aim.date, e.shiftKey ? -7 : -1) };
    else if (e.key === "ArrowDown") this.aim = { ...aim, date: addDays(aim.date, e.shiftKey ? 7 : 1) };
    else if (e.key === "ArrowLeft") this.aim = { ...aim, minute: within(minute - step) };
    else if (e.key === "ArrowRight") this.aim = { ...aim, minute: within(minute + step) };
    if (this.by) this.draw();
  };

  /** Shows where the held posts would come down. */
  private draw() {
    const { label, line, box, said } = this;
    const { posts, ground } = heldNow();
    const first = posts[0];
    if (!first) return;
    const words = wordsFor(this.aim, first, ground);
    const title = posts.length > 1 ? `${first.title} and ${posts.length - 1} more` : first.title;
    set(label, "bad", words.bad ? "yes" : "no");
    write(label.children[0]!, words.text);
    write(label.children[1]!, title);
    const day = this.aim?.on === "day" ? document.querySelector(`[data-day="${this.aim.date}"]`) : null;
    const tape = day?.querySelector("[data-tape]")?.getBoundingClientRect();
    const area = day?.getBoundingClientRect();
    const shown = words.minute !== undefined && tape !== undefined && !words.bad;
    if (!shown) away(line);
    if (!area || shown) away(box);
    if (shown) place(line, tape.left + (words.minute! / 1440) * tape.width - 1, tape.top, 3, tape.height);
    if (area && !shown) place(box, area.left, area.top, area.width, area.height);
    if (this.by === "keys") {
      day?.scrollIntoView({ block: "nearest" });
      const row = day?.getBoundingClientRect();
      const x = tape ? tape.left + ((words.minute ?? 0) / 1440) * tape.width : (row?.left ?? 100);
      this.at = { x, y: (row?.bottom ?? 100) - 8 };
      said.textContent = words.text;
    }
    const x = Math.min(this.at.x + 14, window.innerWidth - labelSize.width - 8);
    const y = Math.min(this.at.y + 14, window.innerHeight - labelSize.height - 8);
    label.style.transform = `translate(${Math.round(x)}px, ${Math.round(y)}px)`;
  }

  private hide() {
    for (const part of [this.label, this.line, this.box]) away(part);
  }
}

function within(minute: number): number {
  return Math.min(1439, Math.max(0, Math.round(minute)));
}

// What follows the hand changes at every frame: it is moved by its transform alone wherever it can be, and out of sight
// in place of being hidden, so that nothing else has to be laid out or painted anew.

function place(el: HTMLElement, x: number, y: number, width: number, height: number) {
  el.style.transform = `translate(${Math.round(x)}px, ${Math.round(y)}px)`;
  const size = `${Math.round(width)} ${Math.round(height)}`;
  if (el.dataset.size === size) return;
  el.dataset.size = size;
  el.style.width = `${Math.round(width)}px`;
  el.style.height = `${Math.round(height)}px`;
}

function away(el: HTMLElement) {
  el.style.transform = "translate(-200vw, 0)";
}

function write(el: Element, text: string) {
  const node = el.firstChild;
  if (node instanceof Text) {
    if (node.data !== text) node.data = text;
  } else el.textContent = text;
}

function set(el: HTMLElement, name: string, value: string) {
  if (el.dataset[name] !== value) el.dataset[name] = value;
}

/** Why a draft that is not cleared does not come onto the shelf by dragging. */
export const stillWritten = "It is still a draft: put it on the shelf first";

/** What would happen if the post came down there. */
function wordsFor(aim: Aim | undefined, post: Held, ground: ReturnType<typeof heldNow>["ground"]) {
  if (!aim) return { text: "Nothing here: it goes back to where it was", bad: true };
  if (aim.on === "shelf") {
    if (!post.draft) return { text: "Back to the shelf", bad: false };
    if (post.shelf === undefined) return { text: stillWritten, bad: true };
    return aim.before === undefined
      ? { text: "It is on the shelf already", bad: true }
      : { text: `Place ${aim.before + 1} on the shelf`, bad: false };
  }
  const day = ground.get(aim.date);
  const date = shownDate(aim.date);
  if (day?.bar) return { text: `Not here: ${day.bar}`, bad: true };
  if (aim.minute === undefined && post.draft) return { text: `${date}, in its first free slot`, bad: false };
  const wanted = aim.minute ?? post.minute;
  if (wanted === undefined) return { text: date, bad: false };
  const minute = landsOn(day, wanted);
  if (minute === undefined) return { text: `Not here: ${date} has no minute left`, bad: true };
  const kept = aim.minute === undefined ? ", as before" : "";
  if (minute === wanted) return { text: `${date}, ${clock(minute)}${kept}`, bad: false, minute };
  return { text: `${date}, ${clock(minute)}: the nearest allowed to ${clock(wanted)}`, bad: false, minute };
}
