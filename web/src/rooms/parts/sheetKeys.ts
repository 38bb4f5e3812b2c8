// What the keys do in the sheet: a pure function of the key, the document and where
// the sheet stands.
import { choice, columns, edited } from "../master/cells";
import {
  filledDown,
  inserted,
  items,
  mirrored,
  moved,
  repeated,
  withItem,
  without,
  type Item,
  type Master,
} from "../master/edits";
import type { At } from "./TableRow";

export type Pressed = { key: string; altKey: boolean; ctrlKey: boolean; metaKey: boolean; shiftKey: boolean };

/** What a key has done. */
export type Did = {
  doc?: Master;
  /** Where the sheet goes; extended, the rows on the way are chosen. */
  at?: At;
  extend?: boolean;
  chosen?: string[];
  /** The editor opens with this text. */
  types?: string;
  /** The key is a letter of what is written, and goes into the editor that opens. */
  letter?: boolean;
  undo?: boolean;
  redo?: boolean;
};

const arrows: Record<string, [number, number]> = {
  ArrowUp: [-1, 0],
  ArrowDown: [1, 0],
  ArrowLeft: [0, -1],
  ArrowRight: [0, 1],
};

/** The cell so many rows and columns away; at the edge of the sheet the last one there. */
export function neighbour(list: Item[], at: At, dRow: number, dColumn: number): At | null {
  const r = list.findIndex((i) => i.key === at.key);
  const c = columns.findIndex((x) => x.field === at.field);
  const row = list[Math.min(list.length - 1, Math.max(0, r + dRow))];
  const column = columns[Math.min(columns.length - 1, Math.max(0, c + dColumn))]!;
  return row ? { key: row.key, field: column.field } : null;
}

/** The rows between what was chosen first and where the sheet goes. */
export function extended(list: Item[], chosen: string[], to: string): string[] {
  const anchor = list.findIndex((i) => i.key === (chosen[0] === to ? chosen.at(-1) : chosen[0]));
  const end = list.findIndex((i) => i.key === to);
  const span = list.slice(Math.min(anchor, end), Math.max(anchor, end) + 1).map((i) => i.key);
  return end < anchor ? span.reverse() : span;
}

export const inOrder = (list: Item[], keys: string[]) => list.filter((i) => keys.includes(i.key)).map((i) => i.key);

/** What a key does at a cell; null when it is none of the sheet's. */
export function pressed(e: Pressed, doc: Master, at: At, chosen: string[], writes: boolean): Did | null {
  const list = items(doc);
  const item = list.find((i) => i.key === at.key);
  if (!item) return null;
  const command = e.ctrlKey || e.metaKey;
  const letter = command ? e.key.toLowerCase() : "";
  const all = chosen.includes(at.key) ? chosen : [at.key];
  const arrow = arrows[e.key];
  if (writes && e.altKey && (e.key === "ArrowUp" || e.key === "ArrowDown"))
    return { doc: moved(doc, all, e.key === "ArrowUp" ? -1 : 1) };
  if (arrow && !e.altKey) return { at: neighbour(list, at, ...arrow) ?? at, extend: e.shiftKey };
  if (e.key === "Home") return { at: { ...at, key: list[0]!.key }, extend: e.shiftKey };
  if (e.key === "End") return { at: { ...at, key: list.at(-1)!.key }, extend: e.shiftKey };
  if (letter === "a") return { chosen: list.map((i) => i.key) };
  if (!writes) return null;
  if (letter === "z") return e.shiftKey ? { redo: true } : { undo: true };
  if (letter === "y") return { redo: true };
  if (letter === "d") return { doc: filledDown(doc, inOrder(list, all), at.field) };
  if (letter === "e" || letter === "m") {
    const [next, added] = (letter === "e" ? repeated : mirrored)(doc, all);
    return { doc: next, chosen: added };
  }
  if (command && e.key === "Enter") {
    const [next, key] = inserted(doc, at.key, item);
    return { doc: next, at: { key, field: "angleDeg" } };
  }
  if (e.key === "Delete" || (command && e.key === "Backspace")) {
    const r = list.findIndex((i) => i.key === all[0]);
    const rest = list.filter((i) => !all.includes(i.key));
    const next = rest[Math.min(r, rest.length - 1)];
    return { doc: without(doc, all), ...(next && { at: { ...at, key: next.key } }) };
  }
  if (e.key === "Enter" || e.key === "F2") return { types: edited(item, at.field) };
  if (e.key.length !== 1 || command || e.altKey) return null;
  if (at.field === "faceUp" && /[ud]/i.test(e.key))
    return { doc: withItem(doc, at.key, { faceUp: e.key.toLowerCase() === "u" }) };
  if (choice(at.field)) return { types: edited(item, at.field) };
  return { types: "", letter: true };
}
