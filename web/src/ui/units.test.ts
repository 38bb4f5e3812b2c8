import { afterEach, expect, test } from "vitest";
import examples from "../../../core/unit/testdata/sentences.json";
import { readNumber } from "./number";
import { inOwn, labelIn, ownOf, readIn, said, shortNumber, shown, shownNumber, unitOf } from "./units";

const us = {
  length: "in",
  temperature: "F",
  pressure: "psi",
  vacuum: "inHg",
  mass: "lb",
  area: "ft2",
  decimal: "comma",
} as const;
afterEach(() => readIn({}));

test("a sentence is said in the reader's units, as the server says it", () => {
  expect(examples.length).toBeGreaterThan(8);
  for (const e of examples) {
    readIn({});
    expect(said(e.sentence)).toBe(e.metric);
    readIn(us);
    expect(said(e.sentence)).toBe(e.us);
  }
});

test("labels carry the person's unit, and a pressure is no vacuum", () => {
  expect(labelIn("Length, m (12.00 left)")).toBe("Length, m (12.00 left)");
  readIn(us);
  expect(labelIn("Length, m (12.00 left)")).toBe("Length, ft (12.00 left)");
  expect(labelIn("Vacuum at start, kPa")).toBe("Vacuum at start, inHg");
  expect(labelIn("Most pressure in cure, kPa")).toBe("Most pressure in cure, psi");
  expect(labelIn("Heating at most, K/min")).toBe("Heating at most, °F/min");
  expect(labelIn("Max. temperature, °C")).toBe("Max. temperature, °F");
  expect(labelIn("E1, GPa")).toBe("E1, GPa");
  expect(labelIn("Reason")).toBe("Reason");
});

test("what is typed in one's own unit is the value that the label's unit says, and comes back as typed", () => {
  readIn({ ...us, decimal: "point" });
  for (const [label, typed, value] of [
    ["Width, mm", 12, 304.8],
    ["Length, m", 100, 30.48],
    ["Vacuum at start, kPa", 28, 94.818892],
    ["Most pressure in cure, kPa", 90, 620.52815638512],
    ["Target, °C", 250, 121.111111111],
    ["Behind at most, K", 9, 5],
    ["Heating, K/min", 3.6, 2],
    ["Mass, kg", 1, 0.45359237],
  ] as const) {
    const own = ownOf(label, unitOf(label))!;
    expect(own.from(typed), label).toBeCloseTo(value, 8);
    expect(shownNumber(own.to(own.from(typed))), label).toBe(String(typed));
  }
});

test("a unit that is typed wins, and a difference has no zero", () => {
  readIn(us);
  const own = ownOf("Behind at most, K", "K")!;
  expect(readNumber("5 K", own.unit, own.difference)).toEqual({ value: 9 });
  expect(readNumber("41 °F", "°C")).toEqual({ value: 5 });
  expect(readNumber("300 mm", "in")).toEqual({ value: 11.811023622 });
  expect(readNumber("2 °C/min", "°F/min")).toEqual({ value: 3.6 });
});

test("a value of another unit is rounded for reading, unless it was typed", () => {
  readIn({ vacuum: "inHg", length: "in" });
  const own = ownOf("at least, kPa", "kPa")!;
  expect(shortNumber(own.to(80))).toBe("23.624");
  for (const typed of [28, 27.5, 0.8859, 29.9213]) expect(shortNumber(own.to(own.from(typed)))).toBe(String(typed));
  expect(inOwn(0.3, "mm")).toBe("0.01181 in");
  expect(inOwn(3, "dB")).toBe("3 dB");
});

test("figures stand in the person's unit with their mark", () => {
  expect(shown("size", 0.012, 1)).toBe("12.0 mm");
  expect(shown("temperature", 255.15, 1)).toBe("-18.0 °C");
  readIn(us);
  expect(shown("size", 0.012, 1)).toBe("0,472 in");
  expect(shown("mass", 1.234, 3)).toBe("2,721 lb");
});
