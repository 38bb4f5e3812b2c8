// The units that somebody reads and types in. Values come and go in SI, labels
// are written with their metric unit; here is the one place where the page turns
// both, and the quantities in the server's sentences, into the person's own
// (core/unit/quantity.go is the server's; one file of examples holds them together).
import type { Schemas } from "../contract/types";

export type System = Schemas["System"];
export type Kind = "size" | "run" | "temperature" | "rise" | "vacuum" | "pressure" | "mass" | "area" | "areal";

/** A unit: how many of it make the SI unit, what is added, how many digits more than the metric one. */
type Scale = { name: string; per: number; add?: number; more?: number };

const scales: Record<Kind, Record<string, Scale>> = {
  size: { mm: { name: "mm", per: 1e3 }, in: { name: "in", per: 1 / 0.0254, more: 2 } },
  run: { mm: { name: "m", per: 1 }, in: { name: "ft", per: 1 / 0.3048 } },
  temperature: { C: { name: "°C", per: 1, add: -273.15 }, F: { name: "°F", per: 1.8, add: -459.67 } },
  rise: { C: { name: "K", per: 1 }, F: { name: "°F", per: 1.8 } },
  vacuum: {
    kPa: { name: "kPa", per: 1e-3 },
    mbar: { name: "mbar", per: 1e-2, more: -1 },
    inHg: { name: "inHg", per: 1 / 3386.389, more: 1 },
  },
  pressure: {
    kPa: { name: "kPa", per: 1e-3 },
    bar: { name: "bar", per: 1e-5, more: 2 },
    psi: { name: "psi", per: 1 / 6894.757293168 },
  },
  mass: { kg: { name: "kg", per: 1 }, lb: { name: "lb", per: 1 / 0.45359237 } },
  area: { m2: { name: "m²", per: 1 }, ft2: { name: "ft²", per: 1 / (0.3048 * 0.3048), more: -1 } },
  areal: { "": { name: "g/m²", per: 1e3 } },
};

const choice: Record<Kind, keyof System | undefined> = {
  size: "length",
  run: "length",
  temperature: "temperature",
  rise: "temperature",
  vacuum: "vacuum",
  pressure: "pressure",
  mass: "mass",
  area: "area",
  areal: undefined,
};

let own: System = {};
/** Said before any page of a person is drawn. */
export const readIn = (units: System) => void (own = units);

function scale(kind: Kind): Scale {
  const by = choice[kind];
  const all = scales[kind];
  return (by && all[own[by] ?? ""]) ?? Object.values(all)[0]!;
}

const marked = (text: string) => (own.decimal === "comma" ? text.replace(".", ",") : text);

/** Rounded, what lies between two figures away from zero; what rounds to nothing has no sign. */
const fixed = (v: number, digits: number) => (v * (1 + 1e-12)).toFixed(digits).replace(/^-(0(\.0*)?)$/, "$1");

/** A plain number with the person's mark before the fraction. */
export const plain = (v: number, digits: number) => marked(fixed(v, digits));

/** A quantity's figure in the person's unit, without it; digits are those of the metric unit. */
export function figure(kind: Kind, si: number, digits: number): string {
  const { per, add = 0, more = 0 } = scale(kind);
  return plain(si * per + add, Math.max(0, digits + more));
}

/** What the person calls the unit of a kind. */
export const unitName = (kind: Kind) => scale(kind).name;

/** A quantity in the person's unit, with it. */
export const shown = (kind: Kind, si: number, digits: number) => `${figure(kind, si, digits)} ${unitName(kind)}`;

/** An SI value in the person's unit, for the axis of a chart. */
export const value = (kind: Kind, si: number) => si * scale(kind).per + (scale(kind).add ?? 0);

/** Lengths on a part as numbers in the person's unit, and back to m. */
export const inSize = (m: number) => +(m * scale("size").per).toPrecision(12);
export const fromSize = (v: number) => v / scale("size").per;

const held = /⟨([a-z]+) (-?[0-9.]+(?:e[+-]?[0-9]+)?) ([0-9])⟩/g;

/** A sentence of the server with its quantities in the person's units. */
export const said = (sentence: string | undefined) =>
  (sentence ?? "").replace(held, (token, kind: string, si: string, digits: string) =>
    Object.hasOwn(scales, kind) && Number.isFinite(Number(si))
      ? shown(kind as Kind, Number(si), Number(digits))
      : token,
  );

/** Metric units of labels: their kind, and what makes SI of a value in them. */
const labelled: Record<string, { kind: Kind; si: number; zero?: number }> = {
  mm: { kind: "size", si: 1e-3 },
  m: { kind: "run", si: 1 },
  "°C": { kind: "temperature", si: 1, zero: 273.15 },
  K: { kind: "rise", si: 1 },
  kg: { kind: "mass", si: 1 },
  "m²": { kind: "area", si: 1 },
};

export type Own = {
  unit: string;
  /** Difference of temperatures: it has no zero. */
  difference: boolean;
  /** From a value in the label's unit to the person's, and back. */
  to: (v: number) => number;
  from: (v: number) => number;
};

const exact = (v: number) => (Number.isFinite(v) ? +v.toPrecision(12) : v);

/**
 * The person's unit where a label names a metric one: "Length, m", "Heating, K/min".
 * A pressure is told from a vacuum by the label's words. Undefined: the label's own.
 */
export function ownOf(label: string, unit: string | undefined): Own | undefined {
  if (unit === undefined) return undefined;
  const [, head = "", tail = ""] = /^([^/]+)(\/min|)$/.exec(unit) ?? [];
  const of =
    head === "kPa"
      ? { kind: /pressure|stands in cure/i.test(label) ? ("pressure" as const) : ("vacuum" as const), si: 1e3 }
      : labelled[head];
  if (!of || (tail !== "" && of.kind !== "rise")) return undefined;
  const { name, per, add = 0 } = scale(of.kind);
  if (name === head) return undefined;
  const zero = "zero" in of ? (of.zero ?? 0) : 0;
  return {
    unit: name + tail,
    difference: of.kind === "rise",
    to: (v) => exact((v * of.si + zero) * per + add),
    from: (v) => exact(((v - add) / per - zero) / of.si),
  };
}

/** A label with the person's unit instead of the metric one that it is written with. */
export function labelIn(label: string): string {
  const unit = unitOf(label);
  const mine = ownOf(label, unit);
  return mine && unit ? label.replace(`, ${unit}`, `, ${mine.unit}`) : label;
}

/** The unit that a label names: "Vacuum at start, kPa", "Length, m (12.00 left)". */
export function unitOf(label: string): string | undefined {
  return /, ([^\s,()]+)(?: \(.*\)| of resin| below|; .*)?$/.exec(label)?.[1];
}

/** A temperature in K, to the whole °C. */
export const wholeDegrees = (k: number) => Math.round(k - 273.15) + 273.15;

/**
 * A value that comes of another unit: as short as it says the same, so that what was
 * typed comes back as it was typed, and what was not is rounded for reading.
 */
export function shortNumber(v: number) {
  if (!Number.isFinite(v)) return "";
  for (let digits = 1; digits < 8; digits++) {
    const short = +v.toPrecision(digits);
    if (Math.abs(short - v) <= 1e-9 * Math.abs(v)) return marked(String(short));
  }
  return marked(String(+v.toPrecision(5)));
}

/** A value that was written down in a unit of its own, in the person's: what is converted to four figures. */
export function inOwn(v: number, unit: string) {
  const mine = ownOf(`, ${unit}`, unit);
  return `${mine ? shortNumber(+mine.to(v).toPrecision(4)) : shownNumber(v)} ${mine?.unit ?? unit}`.trim();
}

/** A number as a field shows it: all that was typed, without what a computer's arithmetic adds. */
export const shownNumber = (v: number) => (Number.isFinite(v) ? marked(String(+v.toPrecision(10))) : "");
