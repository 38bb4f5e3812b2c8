// The figures of a material as its form shows them.
import type { Schemas } from "../../contract/types";

type In = Schemas["MaterialIn"];

/** A figure with its unit at the edge: value in the form, SI on the wire. */
export type Field = {
  label: string;
  scale: number;
  /** K, entered in °C. */
  kelvin?: boolean;
  get: (i: In) => number | undefined;
  set: (i: In, v: number) => In;
};

const own =
  (key: keyof In) =>
  (i: In, v: number): In => ({ ...i, [key]: v });
const sheet =
  (key: keyof In["sheet"]) =>
  (i: In, v: number): In => ({ ...i, sheet: { ...i.sheet, [key]: v } });

export const ply: Field[] = [
  { label: "Width, mm", scale: 1e3, get: (i) => i.width, set: own("width") },
  { label: "Cured thickness, mm", scale: 1e3, get: (i) => i.thickness, set: own("thickness") },
  { label: "Areal mass, g/m²", scale: 1e3, get: (i) => i.arealMass, set: own("arealMass") },
  { label: "of it fibre, g/m²", scale: 1e3, get: (i) => i.sheet.fibreMass, set: sheet("fibreMass") },
  { label: "Resin share, %", scale: 100, get: (i) => i.sheet.resinShare, set: sheet("resinShare") },
  { label: "Bulk factor", scale: 1, get: (i) => i.sheet.bulkFactor, set: sheet("bulkFactor") },
  {
    label: "Thickness tolerance, ± %",
    scale: 100,
    get: (i) => i.sheet.thicknessTolerance,
    set: sheet("thicknessTolerance"),
  },
  { label: "Films to take off", scale: 1, get: (i) => i.films, set: own("films") },
  { label: "Radius of its tube, mm", scale: 1e3, get: (i) => i.sheet.coreTube, set: sheet("coreTube") },
];
/** How it goes over a shape. */
export const drape: Field[] = [
  { label: "Woven: locks at a shear of, °", scale: 1, get: (i) => i.sheet.lockDeg, set: sheet("lockDeg") },
  {
    label: "Least radius of hollows, mm",
    scale: 1e3,
    get: (i) => i.sheet.hollowRadius,
    set: sheet("hollowRadius"),
  },
  {
    label: "Spliced with an overlap of, mm",
    scale: 1e3,
    get: (i) => i.sheet.spliceOverlap,
    set: sheet("spliceOverlap"),
  },
  {
    label: "Unidirectional: steered round at least, mm",
    scale: 1e3,
    get: (i) => i.sheet.steerRadius,
    set: sheet("steerRadius"),
  },
  {
    label: "Sleeve: diameter as made, mm",
    scale: 1e3,
    get: (i) => i.sheet.sleeveDiameter,
    set: sheet("sleeveDiameter"),
  },
  {
    label: "Sleeve: yarn angle as made, °",
    scale: 1,
    get: (i) => i.sheet.sleeveAngleDeg,
    set: sheet("sleeveAngleDeg"),
  },
  { label: "Sleeve: gapes below, °", scale: 1, get: (i) => i.sheet.sleeveLeastDeg, set: sheet("sleeveLeastDeg") },
  { label: "Sleeve: jams beyond, °", scale: 1, get: (i) => i.sheet.sleeveMostDeg, set: sheet("sleeveMostDeg") },
];
export const lives: Field[] = [
  { label: "Out-life, h", scale: 1 / 3600, get: (i) => i.outLife, set: own("outLife") },
  { label: "Tack life, h", scale: 1 / 3600, get: (i) => i.tackLife, set: own("tackLife") },
  { label: "Shelf life, days", scale: 1 / 86400, get: (i) => i.sheet.shelfLife, set: sheet("shelfLife") },
  {
    label: "Storage at most, °C",
    scale: 1,
    kelvin: true,
    get: (i) => i.sheet.storageMax,
    set: sheet("storageMax"),
  },
  { label: "Pot life, min", scale: 1 / 60, get: (i) => i.sheet.potLife, set: sheet("potLife") },
];
export const stiff: Field[] = [
  { label: "E1, GPa", scale: 1e-9, get: (i) => i.e1, set: own("e1") },
  { label: "E2, GPa", scale: 1e-9, get: (i) => i.e2, set: own("e2") },
  { label: "ν12", scale: 1, get: (i) => i.nu12, set: own("nu12") },
  { label: "G12, GPa", scale: 1e-9, get: (i) => i.g12, set: own("g12") },
  { label: "α1, µm/(m K)", scale: 1e6, get: (i) => i.alpha1, set: own("alpha1") },
  { label: "α2, µm/(m K)", scale: 1e6, get: (i) => i.alpha2, set: own("alpha2") },
  { label: "Warp prevails on its face by, %", scale: 100, get: (i) => i.sheet.faceShift, set: sheet("faceShift") },
  { label: "Strength: tension along, MPa", scale: 1e-6, get: (i) => i.sheet.xt, set: sheet("xt") },
  { label: "compression along, MPa", scale: 1e-6, get: (i) => i.sheet.xc, set: sheet("xc") },
  { label: "tension across, MPa", scale: 1e-6, get: (i) => i.sheet.yt, set: sheet("yt") },
  { label: "compression across, MPa", scale: 1e-6, get: (i) => i.sheet.yc, set: sheet("yc") },
  { label: "shear, MPa", scale: 1e-6, get: (i) => i.sheet.s, set: sheet("s") },
  { label: "Core: G13, MPa", scale: 1e-6, get: (i) => i.sheet.g13, set: sheet("g13") },
  { label: "Core: G23, MPa", scale: 1e-6, get: (i) => i.sheet.g23, set: sheet("g23") },
  { label: "Core: density, kg/m³", scale: 1, get: (i) => i.sheet.density, set: sheet("density") },
  {
    label: "Core: pressure limit in cure, kPa",
    scale: 1e-3,
    get: (i) => i.sheet.compressionLimit,
    set: sheet("compressionLimit"),
  },
];
