// What a hand does on the drawing of a nest: plies that are dragged, a rectangle that is drawn.
import type { KeyboardEvent, PointerEvent as Pressed } from "react";
import type { Schemas } from "../contract/types";

export type Zone = { from: number; to: number; low: number; high: number };

/** What a hand does with the plies, where they may be put by one. */
export type Handled = {
  chosen: string;
  drag?: { id: string; dx: number; dy: number; over: string[] } | undefined;
  fixed: (id: string) => boolean;
  overlaps: (id: string) => boolean;
  choose: (id: string) => void;
  dragged: (p: Schemas["PieceView"], dx: number, dy: number) => void;
  dropped: (p: Schemas["PieceView"], dx: number, dy: number) => void;
  key: (p: Schemas["PieceView"], key: string, fine: boolean) => boolean;
};

/** What makes a ply one that is put by hand: mouse, touch and keys. */
export function handling(hand: Handled, p: Schemas["PieceView"], scale: number, label: string) {
  return {
    role: "button",
    tabIndex: 0,
    "aria-label": label,
    "aria-pressed": hand.chosen === p.id,
    style: { cursor: hand.fixed(p.id) ? "default" : "grab", outlineOffset: 2 },
    onFocus: () => hand.choose(p.id),
    onKeyDown: (e: KeyboardEvent) => {
      if (hand.key(p, e.key, e.shiftKey)) {
        e.preventDefault();
        e.stopPropagation();
      }
    },
    onPointerDown: (e: Pressed<SVGGElement>) => {
      hand.choose(p.id);
      e.currentTarget.focus();
      if (hand.fixed(p.id)) return;
      const drawn = e.currentTarget.ownerSVGElement!;
      const by = (scale * drawn.getBoundingClientRect().width) / drawn.viewBox.baseVal.width;
      const start = { x: e.clientX, y: e.clientY };
      const target = e.currentTarget;
      target.setPointerCapture(e.pointerId);
      const off = (ev: PointerEvent) => ({ dx: (ev.clientX - start.x) / by, dy: -(ev.clientY - start.y) / by });
      const move = (ev: PointerEvent) => {
        const { dx, dy } = off(ev);
        hand.dragged(p, dx, dy);
      };
      const up = (ev: PointerEvent) => {
        target.removeEventListener("pointermove", move);
        const { dx, dy } = off(ev);
        if (Math.hypot(dx, dy) * by > 3) hand.dropped(p, dx, dy);
      };
      target.addEventListener("pointermove", move);
      target.addEventListener("pointerup", up, { once: true });
      target.addEventListener("pointercancel", () => target.removeEventListener("pointermove", move), { once: true });
    },
  };
}

/** Draws a rectangle from where the pointer came down. */
export function draws(e: Pressed<SVGRectElement>, scale: number, width: number, onZone: (zone: Zone) => void) {
  const target = e.currentTarget;
  const box = target.getBoundingClientRect();
  const by = (scale * box.width) / target.width.baseVal.value;
  const at = (ev: { clientX: number; clientY: number }) => ({
    x: Math.max(0, (ev.clientX - box.left) / by),
    y: Math.min(width, Math.max(0, width - (ev.clientY - box.top) / by)),
  });
  const from = at(e);
  const cm = (v: number) => Math.round(v * 200) / 200;
  target.setPointerCapture(e.pointerId);
  const move = (ev: PointerEvent) => {
    const to = at(ev);
    onZone({
      from: cm(Math.min(from.x, to.x)),
      to: cm(Math.max(from.x, to.x)),
      low: cm(Math.min(from.y, to.y)),
      high: Math.min(width, cm(Math.max(from.y, to.y))),
    });
  };
  const off = () => target.removeEventListener("pointermove", move);
  target.addEventListener("pointermove", move);
  target.addEventListener("pointerup", off, { once: true });
  target.addEventListener("pointercancel", off, { once: true });
}
