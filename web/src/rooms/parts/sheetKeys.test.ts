import { describe, expect, test } from "vitest";
import type { Item, Master } from "../master/edits";
import { extended, neighbour, pressed, type Pressed } from "./sheetKeys";
import type { At } from "./TableRow";

const ply = (key: string, angleDeg: number): Item => ({
  kind: "ply",
  key,
  angleDeg,
  x: 0,
  y: 0,
  faceUp: true,
  outline: "o",
});
const doc: Master = {
  outlines: [{ name: "o", vertices: [] }],
  stages: [
    { key: "s", name: "skin", kind: "skin", items: [ply("a", 0), ply("b", 45), ply("c", 90)] },
    { key: "t", name: "second", kind: "skin", items: [ply("d", 30)] },
  ],
} as unknown as Master;
const key = (key: string, held: Partial<Pressed> = {}): Pressed => ({
  key,
  altKey: false,
  ctrlKey: false,
  metaKey: false,
  shiftKey: false,
  ...held,
});
const at: At = { key: "b", field: "angleDeg" };
const order = (m?: Master) => m?.stages.map((s) => s.items.map((i) => i.key).join("")).join("|");
const did = (k: Pressed, chosen: string[] = ["b"], where = at, writes = true) => pressed(k, doc, where, chosen, writes);

describe("the keys of the sheet", () => {
  test("walk the cells and stop at the edges", () => {
    expect(did(key("ArrowDown"))?.at).toEqual({ key: "c", field: "angleDeg" });
    expect(did(key("ArrowLeft"))?.at).toEqual({ key: "b", field: "materialId" });
    expect(did(key("End"))?.at).toEqual({ key: "d", field: "angleDeg" });
    expect(did(key("ArrowUp"), ["a"], { ...at, key: "a" })?.at).toEqual({ ...at, key: "a" });
    expect(neighbour(doc.stages[0]!.items, { key: "a", field: "kind" }, -1, -1)).toEqual({ key: "a", field: "kind" });
    expect(did(key("ArrowDown", { shiftKey: true }))?.extend).toBe(true);
  });
  test("choose from where choosing began", () => {
    const list = doc.stages.flatMap((s) => s.items);
    expect(extended(list, ["b"], "d")).toEqual(["b", "c", "d"]);
    expect(extended(list, ["c"], "a")).toEqual(["c", "b", "a"]);
    expect(did(key("a", { ctrlKey: true }))?.chosen).toEqual(["a", "b", "c", "d"]);
  });
  test("move, copy, mirror, add and take out rows", () => {
    expect(order(did(key("ArrowDown", { altKey: true }))?.doc)).toBe("acb|d");
    expect(order(did(key("ArrowUp", { altKey: true }), ["b", "c"])?.doc)).toBe("bca|d");
    const twice = did(key("e", { ctrlKey: true }), ["a", "b"]);
    expect(twice?.doc?.stages[0]!.items.map((i) => i.angleDeg)).toEqual([0, 45, 0, 45, 90]);
    expect(twice?.chosen).toHaveLength(2);
    const mirror = did(key("m", { metaKey: true }), ["a", "b"]);
    expect(mirror?.doc?.stages[0]!.items.map((i) => i.angleDeg)).toEqual([0, 45, 45, 0, 90]);
    const more = did(key("Enter", { ctrlKey: true }));
    expect(more?.doc?.stages[0]!.items[2]!.key).toBe(more?.at?.key);
    expect(order(did(key("Delete"), ["a", "b"])?.doc)).toBe("c|d");
    expect(did(key("Delete"), ["a", "b"])?.at?.key).toBe("c");
    expect(did(key("Delete"), ["d"], { ...at, key: "d" })?.at?.key).toBe("c");
  });
  test("act on the row alone that is at, when others are chosen", () => {
    expect(order(did(key("Delete"), ["a", "c"])?.doc)).toBe("ac|d");
  });
  test("fill down, and turn the face over by its letter", () => {
    const filled = did(key("d", { ctrlKey: true }), ["b", "c"])?.doc;
    expect(filled?.stages[0]!.items.map((i) => i.angleDeg)).toEqual([0, 45, 45]);
    expect(did(key("d"), ["b"], { key: "b", field: "faceUp" })?.doc?.stages[0]!.items[1]!.faceUp).toBe(false);
  });
  test("write: a letter goes into the cell, Enter opens what stands there", () => {
    expect(did(key("9"))).toEqual({ types: "", letter: true });
    expect(did(key("Enter"))).toEqual({ types: "45" });
    expect(did(key("z", { ctrlKey: true }))).toEqual({ undo: true });
    expect(did(key("Z", { ctrlKey: true, shiftKey: true }))).toEqual({ redo: true });
  });
  test("change nothing for whoever only reads, and leave other keys to the page", () => {
    for (const k of [
      key("Delete"),
      key("9"),
      key("Enter"),
      key("d", { ctrlKey: true }),
      key("ArrowDown", { altKey: true }),
    ])
      expect(did(k, ["b"], at, false)?.doc ?? did(k, ["b"], at, false)?.types).toBeUndefined();
    expect(did(key("ArrowDown"), ["b"], at, false)?.at?.key).toBe("c");
    expect(did(key("Tab"))).toBeNull();
    expect(did(key("s", { ctrlKey: true }))).toBeNull();
    expect(did(key("ArrowDown"), [], { ...at, key: "gone" })).toBeNull();
  });
});
