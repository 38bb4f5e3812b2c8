import { describe, expect, it } from "vitest";
import table from "../../../format/number/testdata/numbers.json";
import { beyond, readNumber, readNumbers } from "./number";
import { shownNumber, unitOf } from "./units";

const value = (text: string, unit?: string) => {
  const r = readNumber(text, unit);
  return "value" in r ? r.value : "message" in r ? r.message : "empty";
};

// The server reads files by the same table.
describe("a typed number", () => {
  it("understands comma and point where they mean one thing", () => {
    for (const [text, want] of Object.entries(table.read)) expect(value(text), text).toBe(want);
  });
  it("asks where a comma may mean two numbers", () => {
    for (const text of table.ambiguous) expect(value(text), text).toContain("may mean");
    expect(value("1,234")).toBe("“1,234” may mean 1234 or 1.234: write one of these");
    expect(value("12,500 mm", "mm")).toContain("may mean 12500 or 12.500");
  });
  it("refuses what is none, and says what was typed", () => {
    for (const text of table.refused) {
      const said = value(text, "kPa");
      expect(typeof said, text).toBe("string");
      expect(said, text).toContain(`“${text}” is not a number`);
    }
    expect(value("  ")).toBe("empty");
  });
  // Factors: NIST Special Publication 811 (2008), appendix B.
  it("turns a typed unit into the field's own", () => {
    const table: [string, string, number][] = [
      ["950 mbar", "kPa", 95], ["0,95bar", "kPa", 95], ["28 inHg", "kPa", 94.818892], ["13.5 psi", "kPa", 93.0792234578],
      ["250 °F", "°C", 121.111111111], ["394.15 K", "°C", 121], ["1.5 in", "mm", 38.1], ["12 mm", "m", 0.012], ["8 oz", "g", 226.796185],
      ["90 min", "h", 1.5], ["95 KPA", "kPa", 95], ["0.3 kg/m²", "g/m²", 300], ["45 deg", "°", 45], ["5 %", "%", 5],
    ]; // prettier-ignore
    for (const [text, unit, want] of table) expect(value(text, unit), text).toBeCloseTo(want, 8);
    expect(value("12 mm", "kPa")).toBe("mm cannot be turned into kPa");
    expect(value("12 mm")).toBe("no unit is expected here");
    expect(value("12 mPa", "kPa"), "neither of MPa and Pa").toBe("“12 mPa” is not a number in kPa");
  });
  it("reads several with the same care", () => {
    expect(readNumbers("300, 600; 1000 12,5", "mm")).toEqual({ values: [300, 600, 1000, 12.5] });
    expect(readNumbers("300,600")).toEqual({ message: "“300,600” may mean 300600 or 300.600: write one of these" });
    expect(readNumbers("300; wide", "mm")).toEqual({ message: "“wide” is not a number" });
  });
  it("says what is beyond its limits instead of changing it", () => {
    expect(beyond(950, "kPa", 0, 101.3)).toBe(
      "950 kPa is above 101.3 kPa, the maximum here. If it was read in another unit, type the unit with it",
    );
    expect(beyond(-1, undefined, 0)).toBe("-1 is below 0, the minimum here");
    expect(beyond(5, "kPa", 0, 101.3)).toBe("");
  });
  it("finds the unit that a label names", () => {
    expect(
      ["Vacuum at start, kPa", "Length, m (12.00 left)", "Humidity, %", "Gelation", "Bleeds, % of resin", "x, y"].map(
        unitOf,
      ),
    ).toEqual(["kPa", "m", "%", undefined, "%", "y"]);
  });
  it("shows all that was typed", () => {
    expect([0.46253, 2.3000000000000003, 1e-9, NaN].map(shownNumber)).toEqual(["0.46253", "2.3", "1e-9", ""]);
  });
});
