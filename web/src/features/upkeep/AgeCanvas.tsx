import { memo, useEffect, useLayoutEffect, useRef, useState, type PointerEvent } from "react";
import { coloursOf, draw, markAt, within, type Box, type Mark } from "./marks";
import { ageWords } from "./scale";
import type { Group } from "./upkeep";

type Props = {
  marks: Mark[];
  width: number;
  height: number;
  shown: Group | undefined;
  chosen: ReadonlySet<number>;
  onChoose: (ids: number[], more: boolean) => void;
  onOpen: (id: number) => void;
  onWheel: (x: number, factor: number) => void;
};

/** The marks of the map, drawn. A mark is opened by a click; a group is chosen by drawing a box round it. */
export const AgeCanvas = memo(function AgeCanvas({
  marks,
  width,
  height,
  shown,
  chosen,
  onChoose,
  onOpen,
  onWheel,
}: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [over, setOver] = useState(-1);
  const [box, setBox] = useState<Box>();
  const from = useRef<{ x: number; y: number }>(undefined);
  const theme = useThemeChanges();

  useLayoutEffect(() => {
    const el = canvas.current;
    const g = el?.getContext("2d");
    if (!el || !g || width === 0) return;
    const dense = window.devicePixelRatio || 1;
    el.width = Math.round(width * dense);
    el.height = Math.round(height * dense);
    g.setTransform(dense, 0, 0, dense, 0, 0);
    draw(g, marks, { width, height }, shown, chosen, over, coloursOf(el));
  }, [marks, width, height, shown, chosen, over, theme]);

  useEffect(() => {
    const el = canvas.current;
    if (!el) return;
    // The page is not to scroll or zoom with it, which React's own listener cannot say.
    const turn = (e: WheelEvent) => {
      if (!e.ctrlKey && !e.metaKey) return;
      e.preventDefault();
      onWheel(e.offsetX, Math.exp(-e.deltaY / 400));
    };
    el.addEventListener("wheel", turn, { passive: false });
    return () => el.removeEventListener("wheel", turn);
  }, [onWheel]);

  const place = (e: PointerEvent) => {
    const r = canvas.current!.getBoundingClientRect();
    return { x: e.clientX - r.left, y: e.clientY - r.top };
  };
  const boxTo = (to: { x: number; y: number }): Box | undefined => {
    const start = from.current;
    if (!start || Math.hypot(to.x - start.x, to.y - start.y) < 5) return undefined;
    return {
      left: Math.min(start.x, to.x),
      right: Math.max(start.x, to.x),
      top: Math.min(start.y, to.y),
      bottom: Math.max(start.y, to.y),
    };
  };
  const under = over >= 0 ? marks[over] : undefined;
  return (
    <>
      <canvas
        ref={canvas}
        aria-hidden
        style={{ width, height }}
        className={`absolute inset-0 touch-pan-y ${under ? "cursor-pointer" : "cursor-crosshair"}`}
        onPointerDown={(e) => {
          if (e.button !== 0) return;
          from.current = place(e);
          canvas.current?.setPointerCapture(e.pointerId);
        }}
        onPointerMove={(e) => {
          const at = place(e);
          setOver(from.current ? -1 : markAt(marks, at.x, at.y));
          if (from.current) setBox(boxTo(at));
        }}
        onPointerUp={(e) => {
          const at = place(e);
          const drawn = boxTo(at);
          from.current = undefined;
          setBox(undefined);
          if (drawn) return onChoose(within(marks, drawn), e.shiftKey);
          const i = markAt(marks, at.x, at.y);
          if (i < 0) onChoose([], e.shiftKey);
          else if (e.shiftKey) onChoose([marks[i]!.post.id], true);
          else onOpen(marks[i]!.post.id);
        }}
        onPointerCancel={() => {
          from.current = undefined;
          setBox(undefined);
        }}
        onPointerLeave={() => setOver(-1)}
      />
      {box && (
        <div
          aria-hidden
          className="chalked pointer-events-none absolute"
          style={{
            left: box.left,
            top: box.top,
            width: box.right - box.left,
            height: box.bottom - box.top,
          }}
        />
      )}
      {under && (
        <div
          aria-hidden
          className="pointer-events-none absolute z-20 max-w-64 rounded-md border border-strong bg-sheet px-2 py-1 text-xs shadow-lifted"
          style={{
            left: Math.min(under.x + 10, Math.max(width - 264, 0)),
            top: under.y > height - 60 ? under.y - 52 : under.y + 12,
          }}
        >
          <span className="block truncate font-semibold">{under.post.title}</span>
          <span className="text-soft">{ageWords(under.age)} old</span>
        </div>
      )}
    </>
  );
});

/** Counts how often the theme changed. */
function useThemeChanges(): number {
  const [n, setN] = useState(0);
  useEffect(() => {
    const next = () => setN((n) => n + 1);
    const system = window.matchMedia("(prefers-color-scheme: dark)");
    system.addEventListener("change", next);
    const chosen = new MutationObserver(next);
    chosen.observe(document.documentElement, { attributes: true });
    return () => {
      system.removeEventListener("change", next);
      chosen.disconnect();
    };
  }, []);
  return n;
}
