import { describe, expect, test } from "vitest";
import { whole, zoomed } from "./zoom";

describe("zoom", () => {
  // Where a place of the drawing is seen.
  const seen = (p: number, middle: number, moved: number, zoom: number) => middle + (p - middle) * zoom + moved;
  test("what lies under the pointer stays there", () => {
    let v = whole;
    for (const [factor, x, y] of [
      [1.5, 100, 40],
      [3, 300, 10],
      [0.4, 20, 200],
    ] as const) {
      const at = { x: 280 + (x - 280 - v.x) / v.zoom, y: 115 + (y - 115 - v.y) / v.zoom };
      v = zoomed(v, factor, { x, y }, 560, 230);
      expect(seen(at.x, 280, v.x, v.zoom)).toBeCloseTo(x, 9);
      expect(seen(at.y, 115, v.y, v.zoom)).toBeCloseTo(y, 9);
    }
  });
  test("it ends at half and at two hundred times", () => {
    expect(zoomed(whole, 1e9, { x: 0, y: 0 }, 560, 230).zoom).toBe(200);
    expect(zoomed(whole, 1e-9, { x: 0, y: 0 }, 560, 230).zoom).toBe(0.5);
    expect(zoomed({ ...whole, zoom: 200 }, 2, { x: 9, y: 9 }, 560, 230)).toEqual({ x: 0, y: 0, zoom: 200 });
  });
});
