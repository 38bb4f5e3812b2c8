// A drawing that is zoomed and moved: by one finger or two, by the mouse, by keys
// and by the wheel. The wheel is the drawing's while it has the focus, or with
// Ctrl; else it goes on scrolling the page.
import { useCallback, useRef, useState, type KeyboardEvent, type PointerEvent } from "react";

/** How a drawing is seen: moved by x and y of its own units, zoomed about its middle. */
export type View = { x: number; y: number; zoom: number };
type Place = { x: number; y: number };

/** What the pointer is told over such a drawing. */
export const hint = "Press it: the wheel, + and − zoom, drag and arrows move it, 0 shows all.";

export const whole: View = { x: 0, y: 0, zoom: 1 };

/** What zooming by a factor about a place makes of a view; the place stays where it is. */
export function zoomed(v: View, factor: number, at: Place, width: number, height: number): View {
  const zoom = Math.min(200, Math.max(0.5, v.zoom * factor));
  const k = zoom / v.zoom;
  const [px, py] = [at.x - width / 2, at.y - height / 2];
  return { zoom, x: px - (px - v.x) * k, y: py - (py - v.y) * k };
}

/**
 * The view of an svg of a width and height, and what moves it. grab may take hold
 * of something that lies under the pointer: it then gets every place until the
 * pointer is up.
 */
export function useZoom(width: number, height: number, grab?: (at: Place) => ((to: Place) => void) | null) {
  const [view, setView] = useState(whole);
  const svg = useRef<SVGSVGElement | null>(null);
  const pointers = useRef(new Map<number, Place>());
  const held = useRef<((to: Place) => void) | null>(null);
  const inside = (e: { clientX: number; clientY: number }) => {
    const r = svg.current!.getBoundingClientRect();
    return { x: ((e.clientX - r.left) / r.width) * width, y: ((e.clientY - r.top) / r.height) * height };
  };
  const zoom = (factor: number, at: Place = { x: width / 2, y: height / 2 }) =>
    setView((v) => zoomed(v, factor, at, width, height));
  const shift = (x: number, y: number) => setView((v) => ({ ...v, x: v.x + x, y: v.y + y }));
  // React's own wheel cannot keep the page from scrolling.
  const ref = useCallback(
    (el: SVGSVGElement) => {
      svg.current = el;
      const wheel = (e: WheelEvent) => {
        if (document.activeElement !== el && !e.ctrlKey) return;
        e.preventDefault();
        const r = el.getBoundingClientRect();
        const at = { x: ((e.clientX - r.left) / r.width) * width, y: ((e.clientY - r.top) / r.height) * height };
        setView((v) => zoomed(v, Math.exp(-e.deltaY * 0.0015), at, width, height));
      };
      el.addEventListener("wheel", wheel, { passive: false });
      return () => el.removeEventListener("wheel", wheel);
    },
    [width, height],
  );
  const up = (e: PointerEvent) => {
    pointers.current.delete(e.pointerId);
    held.current = null;
  };
  const on = {
    ref,
    tabIndex: 0,
    onPointerDown: (e: PointerEvent) => {
      const at = inside(e);
      pointers.current.set(e.pointerId, at);
      held.current = grab?.(at) ?? null;
    },
    onPointerMove: (e: PointerEvent) => {
      const was = pointers.current.get(e.pointerId);
      if (!was) return;
      if (e.buttons === 0) return up(e); // let go outside
      const at = inside(e);
      if (!svg.current!.hasPointerCapture(e.pointerId)) {
        // A press that hardly moves is a press on what lies there.
        if (Math.hypot(at.x - was.x, at.y - was.y) < 3) return;
        svg.current!.setPointerCapture(e.pointerId);
      }
      const other = [...pointers.current.entries()].find(([k]) => k !== e.pointerId)?.[1];
      if (other) {
        const apart = (p: Place) => Math.hypot(p.x - other.x, p.y - other.y);
        zoom(apart(at) / Math.max(1, apart(was)), other);
      } else if (held.current) held.current(at);
      else shift(at.x - was.x, at.y - was.y);
      pointers.current.set(e.pointerId, at);
    },
    onPointerUp: up,
    onPointerCancel: up,
    onKeyDown: (e: KeyboardEvent) => {
      const by = 40;
      const does: Record<string, () => void> = {
        "+": () => zoom(1.25),
        "=": () => zoom(1.25),
        "-": () => zoom(0.8),
        "0": () => setView(whole),
        ArrowLeft: () => shift(by, 0),
        ArrowRight: () => shift(-by, 0),
        ArrowUp: () => shift(0, by),
        ArrowDown: () => shift(0, -by),
      };
      if (!does[e.key]) return;
      does[e.key]!();
      e.preventDefault();
      e.stopPropagation();
    },
  };
  return { view, on };
}
