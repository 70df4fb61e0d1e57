import type { Aged, AgeMap, Group, RuleLine } from "./upkeep";
import { groupsOf } from "./upkeep";
import { ageOf, ageScale, type Stretch } from "./scale";

/** A post as it is drawn: its place, and what it is. */
export type Mark = {
  post: Aged;
  age: number;
  groups: Group[];
  x: number;
  y: number;
  r: number;
};

/** How far a mark stays from the borders of its lane. */
const margin = 9;
/** What the label of a line takes of the first lane that it goes through. */
const label = 26;

/** A number between 0 and 1 that a post always has: marks of one age do not lie on one another. */
export function spreadOf(id: number): number {
  let h = (id * 0x9e3779b1) >>> 0;
  h ^= h >>> 15;
  h = Math.imul(h, 0x85ebca6b) >>> 0;
  h ^= h >>> 13;
  return (h >>> 0) / 2 ** 32;
}

/** The marks of a map, in its order, for an axis of a width and lanes of a height. */
export function marksOf(map: AgeMap, stretch: Stretch, width: number, lane: number): Mark[] {
  const lines = new Map<number, RuleLine>(map.lines.map((l) => [l.id, l]));
  const now = Date.parse(map.now);
  const x = ageScale(stretch, width);
  const labelled = new Set(map.lines.flatMap((l) => (l.hasAge && l.lanes.length > 0 ? [l.lanes[0]!] : [])));
  return map.posts.map((post) => {
    const age = ageOf(post.published, now);
    const top = margin + (labelled.has(post.lane) ? label : 0);
    return {
      post,
      age,
      groups: groupsOf(post, lines),
      x: x(age),
      y: post.lane * lane + top + spreadOf(post.id) * (lane - top - margin),
      r: 3 + Math.min(3, Math.log2(1 + (post.shared ?? 0)) * 0.7),
    };
  });
}

/** The mark under a place, the nearest where there are several; -1 where there is none. */
export function markAt(marks: Mark[], x: number, y: number, reach = 8): number {
  let best = -1;
  let least = reach * reach;
  for (let i = 0; i < marks.length; i++) {
    const m = marks[i]!;
    const d = (m.x - x) ** 2 + (m.y - y) ** 2;
    if (d <= least) {
      least = d;
      best = i;
    }
  }
  return best;
}

export type Box = { left: number; top: number; right: number; bottom: number };

/** The posts whose marks are in a box. */
export function within(marks: Mark[], box: Box): number[] {
  return marks
    .filter((m) => m.x >= box.left && m.x <= box.right && m.y >= box.top && m.y <= box.bottom)
    .map((m) => m.post.id);
}

type Colours = Record<
  "ink" | "soft" | "faint" | "sheet" | "away" | "again" | "madder" | "edit" | "tape",
  string
>;

/** The colours of the theme that is on. */
export function coloursOf(el: Element): Colours {
  const style = getComputedStyle(el);
  const forced = window.matchMedia("(forced-colors: active)").matches;
  // With colours of the reader's own, form alone tells marks apart.
  const of = (name: string) =>
    forced ? (name === "--sheet" ? "Canvas" : "CanvasText") : style.getPropertyValue(name).trim();
  return {
    ink: of("--ink"),
    soft: of("--ink-soft"),
    faint: of("--ink-faint"),
    sheet: of("--sheet"),
    away: of("--away"),
    again: of("--again"),
    madder: of("--madder"),
    edit: of("--edit"),
    tape: of("--tape"),
  };
}

/**
 * Draws the marks. What a post is shows in its form: a ring is evergreen, a square never expires, a stroke above is a
 * timed edit, a notch below is past its time, one above is due again; the larger, the more often it was shared.
 */
export function draw(
  g: CanvasRenderingContext2D,
  marks: Mark[],
  size: { width: number; height: number },
  shown: Group | undefined,
  chosen: ReadonlySet<number>,
  over: number,
  c: Colours,
) {
  g.clearRect(0, 0, size.width, size.height);
  for (let i = 0; i < marks.length; i++) {
    const m = marks[i]!;
    if (m.x < -8 || m.x > size.width + 8) continue;
    const dim = shown !== undefined && !m.groups.includes(shown);
    g.globalAlpha = dim ? 0.18 : 1;
    const past = m.groups.includes("past");
    const due = m.groups.includes("due");
    const colour = past && due ? c.madder : past ? c.away : due ? c.again : c.soft;
    form(g, m, colour, c);
    if (chosen.has(m.post.id) || i === over) {
      g.globalAlpha = 1;
      g.lineWidth = 2;
      g.strokeStyle = c.ink;
      g.beginPath();
      g.arc(m.x, m.y, m.r + 4, 0, 2 * Math.PI);
      g.stroke();
    }
  }
  g.globalAlpha = 1;
}

function form(g: CanvasRenderingContext2D, { post, x, y, r, groups }: Mark, colour: string, c: Colours) {
  g.fillStyle = colour;
  g.strokeStyle = colour;
  g.lineWidth = 1.6;
  if (post.never) {
    g.fillRect(x - r, y - r, 2 * r, 2 * r);
  } else {
    g.beginPath();
    g.arc(x, y, r, 0, 2 * Math.PI);
    if (post.evergreen) {
      g.fillStyle = c.sheet;
      g.fill();
      g.stroke();
    } else {
      g.fill();
    }
  }
  if (groups.includes("past")) notch(g, x, y + r + 5, 3.2, colour);
  if (groups.includes("due")) notch(g, x, y - r - 5, -3.2, colour);
  if (post.edited) {
    g.strokeStyle = c.edit;
    g.beginPath();
    g.moveTo(x + r, y - r);
    g.lineTo(x + r + 5, y - r - 5);
    g.stroke();
  }
}

function notch(g: CanvasRenderingContext2D, x: number, y: number, h: number, colour: string) {
  g.fillStyle = colour;
  g.beginPath();
  g.moveTo(x - 3.4, y - h / 2);
  g.lineTo(x + 3.4, y - h / 2);
  g.lineTo(x, y + h);
  g.closePath();
  g.fill();
}
