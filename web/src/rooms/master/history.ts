// What was done to a document on this page, and can be undone without limit as long
// as the page is open.
import type { Master } from "./edits";

export type History = { past: Master[]; now: Master; future: Master[] };
export type Move = { to: Master } | { take: Master } | "undo" | "redo";

/** A document as it was read, or as an earlier visit left it, which can be undone. */
export const begin = (read: Master, returned?: Master): History => ({
  past: returned ? [read] : [],
  now: returned ?? read,
  future: [],
});

export function step(h: History, m: Move): History {
  if (m === "undo") {
    const last = h.past.at(-1);
    return last ? { past: h.past.slice(0, -1), now: last, future: [h.now, ...h.future] } : h;
  }
  if (m === "redo") {
    const next = h.future[0];
    return next ? { past: [...h.past, h.now], now: next, future: h.future.slice(1) } : h;
  }
  // What the server merged in is no step of one's own.
  if ("take" in m) return { ...h, now: m.take };
  return { past: [...h.past, h.now], now: m.to, future: [] };
}
