// What a person types as a number, read as it was meant or refused in a
// sentence: comma and point are both understood where they cannot mean two
// things, a unit may be typed, and nothing is rounded or brought within limits
// in silence.
import { shownNumber } from "./units";

/** Units of a kind: factor to the first of them, and what is added before it. */
const kinds: Record<string, [factor: number, zero?: number]>[] = [
  { m: [1], cm: [1e-2], mm: [1e-3], µm: [1e-6], um: [1e-6], in: [0.0254], ft: [0.3048] },
  { kg: [1], g: [1e-3], lb: [0.45359237], oz: [0.028349523125] },
  {
    Pa: [1],
    hPa: [1e2],
    kPa: [1e3],
    MPa: [1e6],
    GPa: [1e9],
    mbar: [1e2],
    bar: [1e5],
    psi: [6894.757293168],
    ksi: [6894757.293168],
    Msi: [6894757293.168],
    inHg: [3386.389],
    mmHg: [133.322387415],
  },
  { "°C": [1], C: [1], K: [1, -273.15], "°F": [5 / 9, -32], F: [5 / 9, -32] },
  { s: [1], min: [60], h: [3600], d: [86400] },
  { "K/min": [1], "°C/min": [1], "C/min": [1], "°F/min": [5 / 9], "F/min": [5 / 9] },
  {
    "m²": [1],
    m2: [1],
    "cm²": [1e-4],
    cm2: [1e-4],
    "ft²": [0.09290304],
    ft2: [0.09290304],
    "in²": [0.00064516],
    in2: [0.00064516],
  },
  { N: [1], kN: [1e3] },
  { "°": [1], deg: [1], rad: [180 / Math.PI] },
  { "g/m²": [1], "g/m2": [1], "kg/m²": [1e3], "kg/m2": [1e3] },
];

const folded = (unit: string) => unit.replace("μ", "µ").toLowerCase();

/** The unit with its own spelling, and its kind; case is folded where that is no other unit. */
function find(unit: string) {
  for (const kind of kinds) if (Object.hasOwn(kind, unit)) return { unit, kind };
  const alike = kinds
    .flatMap((kind) => Object.keys(kind).map((u) => ({ unit: u, kind })))
    .filter((x) => folded(x.unit) === folded(unit));
  // A small m is a thousandth and a large one a million: those are never folded.
  const found = alike.length === 1 ? alike[0] : undefined;
  return found && /^m/i.test(unit) && unit[0] !== found.unit[0] ? undefined : found;
}

export type Reading = { value: number } | { empty: true } | { message: string };

/** Reads digits with comma or point; undefined where they are none, a sentence where they may mean two numbers. */
function digits(text: string): number | string | undefined {
  const m = /^([+-]?)(\d[\d.,'’ ]*|[.,]\d+)(e[+-]?\d+)?$/i.exec(text);
  if (!m) return undefined;
  const [, sign = "", whole = "", power = ""] = m;
  const bare = whole.replace(/ $/, "");
  const marks = bare.replace(/\d/g, "");
  const last = marks.at(-1) ?? "";
  const grouped = (of: string, mark: string) => new RegExp(`^\\d{1,3}(\\${mark}\\d{3})+$`).test(of);
  const made = (plain: string) => Number(sign + plain + power);
  if (marks === "") return made(bare);
  if (new Set(marks).size === 1) {
    if (marks.length > 1 || (last !== "." && last !== ","))
      return grouped(bare, last) ? made(bare.replaceAll(last, "")) : undefined;
    // One comma with three digits after it is a thousand to one reader and a
    // fraction to another. A point is a fraction here, as everywhere on the page.
    if (last === "," && grouped(bare, ",") && !/^0/.test(bare))
      return `“${text}” may mean ${bare.replace(",", "")} or ${bare.replace(",", ".")}: write one of these`;
    return made(bare.replace(",", "."));
  }
  // Two kinds of mark: the last, which stands once, parts off the fraction.
  const [front = "", behind = ""] = [bare.slice(0, bare.lastIndexOf(last)), bare.slice(bare.lastIndexOf(last) + 1)];
  const mark = marks[0]!;
  if ((last !== "." && last !== ",") || front.includes(last) || !grouped(front, mark) || !/^\d+$/.test(behind))
    return undefined;
  return made(`${front.replaceAll(mark, "")}.${behind}`);
}

/**
 * Reads a typed text in a unit, or in another of its kind that is typed with it; of a
 * difference of temperatures the degrees count, not their zero.
 */
export function readNumber(typed: string, unit?: string, difference = false): Reading {
  const text = typed
    .replace(/[\s\u00a0\u202f]+/g, " ")
    .replace(/[−–]/g, "-")
    .trim();
  if (text === "") return { empty: true };
  const m = /^([+-]?[\d.,'’ ]*\d(?:e[+-]?\d+)?)\s*(.*)$/i.exec(text);
  const found = m && digits(m[1]!.trim());
  if (typeof found === "string") return { message: found };
  const given = m?.[2] ?? "";
  if (found === undefined || found === null || !Number.isFinite(found))
    return { message: `“${typed.trim()}” is not a number` };
  if (given === "" || given === unit) return { value: found };
  const from = find(given);
  const to = unit === undefined ? undefined : find(unit);
  // A word of more than letters, as in "12O5", is a slip and no unit.
  if (!from) return { message: `“${typed.trim()}” is not a number${unit ? ` in ${unit}` : ""}` };
  if (!to || to.kind !== from.kind)
    return { message: unit ? `${from.unit} cannot be turned into ${unit}` : "no unit is expected here" };
  const [factor, zero = 0] = from.kind[from.unit]!;
  const [into, base = 0] = to.kind[to.unit]!;
  const [off, on] = difference ? [0, 0] : [zero, base];
  return { value: +(((found + off) * factor) / into - on).toPrecision(12) };
}

/** Reads several numbers with semicolons or white space between them; a comma parts them where a space follows it. */
export function readNumbers(typed: string, unit?: string): { values: number[] } | { message: string } {
  const values: number[] = [];
  for (const one of typed.split(/;|,\s|\s+/).filter((x) => x.trim() !== "")) {
    const r = readNumber(one, unit);
    if ("message" in r) return r;
    if ("value" in r) values.push(r.value);
  }
  return { values };
}

/** Why a value that was read cannot stand here, or "". */
export function beyond(value: number, unit: string | undefined, min?: number, max?: number): string {
  const message = (v: number) => `${shownNumber(v)}${unit ? ` ${unit}` : ""}`;
  const other = unit && find(unit) ? `. If it was read in another unit, type the unit with it` : "";
  if (min !== undefined && value < min) return `${message(value)} is below ${message(min)}, the minimum here${other}`;
  if (max !== undefined && value > max) return `${message(value)} is above ${message(max)}, the maximum here${other}`;
  return "";
}
