import { describe, expect, test } from "vitest";
import { edited, read, shown } from "./cells";
import type { Item } from "./edits";

const ply: Item = {
  key: "a",
  kind: "ply",
  angleDeg: -45,
  x: 0.0305,
  y: 0,
  faceUp: false,
  outline: "full",
  materialId: 7,
};
const materials = [{ id: 7, name: "Sable" }];

describe("a cell of the sheet", () => {
  test("shows people's units and says what a lump is", () => {
    expect(shown(ply, "angleDeg", materials)).toBe("−45°");
    expect(shown(ply, "x", materials)).toBe("30.5");
    expect(shown(ply, "faceUp", materials)).toBe("down");
    expect(shown(ply, "materialId", materials)).toBe("Sable");
    const insert: Item = { ...ply, kind: "insert", materialId: undefined, name: "bush" };
    expect(shown(insert, "materialId", materials)).toBe("bush");
    expect(shown(insert, "angleDeg", materials)).toBe("");
    expect(shown(insert, "outline", materials)).toBe("");
  });
  test("reads what is typed, with either comma and either minus", () => {
    expect(read(ply, "angleDeg", "−30°", [])).toMatchObject({ angleDeg: -30 });
    expect(read(ply, "x", "12,5", [])).toMatchObject({ x: 0.0125 });
    expect(read(ply, "faceUp", "up", [])).toEqual({ faceUp: true });
    expect(read(ply, "outline", "pad", [])).toEqual({ outline: "pad" });
    expect(read(ply, "angleDeg", "north", [])).toBe("“north” is not a number");
    expect(read(ply, "angleDeg", " ", [])).toBe("“ ” is not a number");
  });
  test("takes an expression of a family's parameters, and gives it up for a number", () => {
    const wide = read(ply, "x", "L/2+15", ["L"]) as Partial<Item>;
    expect(wide).toEqual({ expr: { x: "L/2+15" } });
    const family = { ...ply, ...wide };
    expect(shown(family, "x", materials)).toBe("L/2+15");
    expect(edited(family, "x")).toBe("L/2+15");
    expect(read(family, "x", "20", ["L"])).toEqual({ x: 0.02, expr: undefined });
    expect(read(ply, "x", "M/2", ["L"])).toBe("“M/2” is not a number");
  });
  test("opens with what stands in it", () => {
    expect(edited(ply, "angleDeg")).toBe("-45");
    expect(edited(ply, "faceUp")).toBe("down");
    expect(edited(ply, "materialId")).toBe("7");
    expect(edited(ply, "y")).toBe("0");
  });
});
