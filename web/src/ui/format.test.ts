import { describe, expect, it } from "vitest";
import { angle, fieldTime, percent, plies, ranges, signature, spell, told, waitsFor } from "./format";
import { bounds, scaleBar } from "./Hatch";

describe("words and units", () => {
  it("writes fibre angles with their sign", () => {
    expect([0, 45, -45, 90, -30].map(angle)).toEqual(["0°", "+45°", "−45°", "90°", "−30°"]);
  });
  it("spells durations as people say them", () => {
    expect([35 * 60, 160 * 60, 7200, 203 * 3600 + 60, -1800].map(spell)).toEqual([
      "35 min",
      "2 h 40",
      "2 h",
      "203 h",
      "30 min",
    ]);
  });
  it("gives no sign to what rounds to nothing", () => {
    expect([
      told.size(-1e-6),
      told.size(-1e-6, 0),
      told.size(-1e-3),
      told.vacuum(-4),
      told.degrees(273.1),
      percent(-0.001),
    ]).toEqual(["0.0 mm", "0 mm", "-1.0 mm", "0.0 kPa", "0 °C", "0"]);
  });
  it("tells an amount in what it is counted in", () => {
    expect([told.amount(12, "m"), told.amount(0.5, "kg")]).toEqual(["12.00 m", "0.50 kg"]);
  });
  it("lists plies", () => {
    expect(plies([4])).toBe("ply 4");
    expect(plies([1, 2, 7])).toBe("plies 1, 2 and 7");
    expect(ranges([1, 2, 3, 8, 10, 11])).toBe("1–3, 8, 10–11");
    expect(ranges([])).toBe("");
  });
});

describe("drawing", () => {
  it("finds the box of outlines", () => {
    const b = bounds([[[0, 0], [2, 1]], [[-1, 3]]]); // prettier-ignore
    expect(b).toEqual({ x0: -1, x1: 2, y0: 0, y1: 3 });
  });
  it("picks a round scale bar of at most a quarter", () => {
    expect(scaleBar(0.56)).toBeCloseTo(0.1);
    expect(scaleBar(2.4)).toBeCloseTo(0.5);
    expect(scaleBar(0.09)).toBeCloseTo(0.02);
  });
});

describe("times in fields", () => {
  it("goes through a datetime-local field to the minute", () => {
    const iso = "2026-11-25T03:15:00.000Z";
    expect(new Date(fieldTime(iso)).toISOString()).toBe(iso);
    expect(fieldTime("")).toBe("");
  });
});

describe("signatures", () => {
  it("says what a signature means and in which role it was given", () => {
    expect(signature({ meaning: "inspected", role: "quality" })).toBe("signed as inspected, quality");
    expect(signature({ meaning: "laid" })).toBe("signed as laid");
    expect(signature({})).toBe("");
  });
});

it("what is waited for is one sentence", () => {
  expect(waitsFor([])).toBe("");
  expect(waitsFor(["waits for Kit"])).toBe("waits for Kit");
  expect(waitsFor(["waits for Kit", "waits for tool", "waits for Join"])).toBe("waits for Kit, tool and Join");
});
