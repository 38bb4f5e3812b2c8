import { expect, test } from "vitest";
import type { Master } from "./edits";
import { begin, step, type History, type Move } from "./history";

const doc = (name: string) => ({ format: name }) as unknown as Master;
const [a, b, c, d] = ["a", "b", "c", "d"].map(doc) as [Master, Master, Master, Master];
const after = (h: History, ...moves: Move[]) => moves.reduce(step, h);

test("every change can be undone, and done again", () => {
  const h = after(begin(a), { to: b }, { to: c });
  expect(h.now).toBe(c);
  expect(after(h, "undo").now).toBe(b);
  expect(after(h, "undo", "undo").now).toBe(a);
  expect(after(h, "undo", "undo", "redo", "redo")).toEqual(h);
});

test("beyond the ends nothing happens", () => {
  expect(after(begin(a), "undo", "redo").now).toBe(a);
  const h = after(begin(a), { to: b });
  expect(step(h, "redo")).toBe(h);
});

test("a change after an undo leaves what was undone behind", () => {
  const h = after(begin(a), { to: b }, "undo", { to: c }, "redo");
  expect(h.now).toBe(c);
  expect(after(h, "undo").now).toBe(a);
});

test("what somebody else changed is no step of one's own", () => {
  const h = after(begin(a), { to: b }, { take: d });
  expect(h.now).toBe(d);
  expect(after(h, "undo").now).toBe(a);
});

test("what an earlier visit left can be undone to what was read", () => {
  const h = begin(a, b);
  expect(h.now).toBe(b);
  expect(step(h, "undo").now).toBe(a);
});
