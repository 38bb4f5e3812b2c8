import { describe, expect, test } from "vitest";
import {
  begun,
  coded,
  dropped,
  filledDown,
  inserted,
  mirrored,
  moved,
  repeated,
  withMandrelExpression,
  withOutlineExpression,
  without,
  type Item,
  type Master,
} from "./edits";

const item = (key: string, angleDeg = 0): Item => ({
  key,
  kind: "ply",
  angleDeg,
  x: 0,
  y: 0,
  faceUp: true,
  outline: "full",
  materialId: 1,
});
const doc = (): Master => ({
  format: "juxta master 1",
  outlines: [{ name: "full", kind: "circle", dims: { diameter: 1 } }],
  stages: [
    { key: "s", name: "", kind: "skin", items: [item("a", 0), item("b", 45), item("c", 90)] },
    { key: "t", name: "", kind: "second skin", items: [item("d", 30)] },
  ],
});
const order = (m: Master) => m.stages.map((s) => s.items.map((i) => i.key).join("")).join("|");
const angles = (m: Master) => m.stages.flatMap((s) => s.items.map((i) => i.angleDeg));

describe("a stack edited like a sheet", () => {
  test("moves rows, over the end of a stage into the next", () => {
    expect(order(moved(doc(), ["b"], 1))).toBe("acb|d");
    expect(order(moved(doc(), ["b", "c"], -1))).toBe("bca|d");
    expect(order(moved(doc(), ["c"], 1))).toBe("ab|cd");
    expect(order(moved(doc(), ["d"], -1))).toBe("abcd|");
    expect(order(moved(doc(), ["a"], -1))).toBe("abc|d");
  });
  test("puts rows that are dropped to the place of another, or to the beginning of a stage", () => {
    expect(order(dropped(doc(), ["c"], "a"))).toBe("cab|d");
    expect(order(dropped(doc(), ["a"], "c"))).toBe("bca|d");
    expect(order(dropped(doc(), ["b", "a"], "d"))).toBe("c|dab");
    expect(order(dropped(doc(), ["d"], "c"))).toBe("abdc|");
    expect(order(dropped(doc(), ["a", "b"], "a"))).toBe("abc|d");
    expect(order(begun(doc(), ["a", "c"], "t"))).toBe("b|acd");
  });
  test("leaves a stack alone when rows of another master are dropped", () => {
    expect(dropped(doc(), ["elsewhere"], "a")).toEqual(doc());
    expect(begun(doc(), ["elsewhere"], "t")).toEqual(doc());
  });
  test("repeats and mirrors with keys of their own, faces turned over", () => {
    const [twice, added] = repeated(doc(), ["a", "b"]);
    expect(angles(twice)).toEqual([0, 45, 0, 45, 90, 30]);
    expect(new Set(twice.stages.flatMap((s) => s.items.map((i) => i.key))).size).toBe(6);
    expect(added).toHaveLength(2);
    const [mirror] = mirrored(doc(), ["a", "b", "c"]);
    expect(angles(mirror)).toEqual([0, 45, 90, 90, 45, 0, 30]);
    expect(mirror.stages[0]!.items.map((i) => i.faceUp)).toEqual([true, true, true, false, false, false]);
    expect(repeated(doc(), ["nobody"])[1]).toEqual([]);
  });
  test("fills down, inserts, takes out", () => {
    expect(angles(filledDown(doc(), ["b", "c", "d"], "angleDeg"))).toEqual([0, 45, 45, 45]);
    const [more, key] = inserted(doc(), "a", { angleDeg: 7 });
    expect(more.stages[0]!.items[1]).toMatchObject({ key, angleDeg: 7, outline: "full" });
    expect(order(without(doc(), ["a", "d"]))).toBe("bc|");
  });
  test("lays a stacking code in the place of a row, whose key the first keeps", () => {
    const [laid, keys] = coded(doc(), "b", {}, [
      { angleDeg: 10, mirrored: false },
      { angleDeg: 20, mirrored: true },
    ]);
    expect(angles(laid)).toEqual([0, 10, 20, 90, 30]);
    expect(keys[0]).toBe("b");
    expect(laid.stages[0]!.items[2]!.faceUp).toBe(false);
    const [end] = coded(doc(), null, { materialId: 9 }, [{ angleDeg: 5, mirrored: false }]);
    expect(end.stages[1]!.items.at(-1)).toMatchObject({ angleDeg: 5, materialId: 9 });
  });
});

describe("figures that follow from parameters", () => {
  test("are kept with their outline, and gone with their text", () => {
    const one = withOutlineExpression(doc(), "full", "diameter", "D+10");
    expect(one.outlines[0]!.expr).toEqual({ diameter: "D+10" });
    expect(withOutlineExpression(one, "other", "diameter", "1")).toEqual(one);
    expect(withOutlineExpression(one, "full", "diameter", "  ").outlines[0]!.expr).toBeUndefined();
  });

  test("are kept with the mandrel of their stage alone", () => {
    const base = doc();
    base.stages[0]!.rolled = { section: "round", width: 0.04, length: 0.6, expr: { width: "D" } };
    const one = withMandrelExpression(base, "s", "length", "L");
    expect(one.stages[0]!.rolled!.expr).toEqual({ width: "D", length: "L" });
    expect(withMandrelExpression(one, "s", "width", "").stages[0]!.rolled!.expr).toEqual({ length: "L" });
    expect(withMandrelExpression(base, "t", "length", "L")).toEqual(base);
    expect(base.stages[0]!.rolled.expr).toEqual({ width: "D" });
  });
});
