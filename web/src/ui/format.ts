// People's words for the SI values that the server sends.
import { figure, plain, shown } from "./units";

/** Quantities in the person's units, with them; digits are those of the metric unit. */
export const told = {
  /** On a part, m. */
  size: (m: number, digits = 1) => shown("size", m, digits),
  /** Two sides of one thing, m. */
  sides: (a: number, b: number, digits = 1) => `${figure("size", a, digits)} × ${shown("size", b, digits)}`,
  /** Along a roll, m. */
  run: (m: number, digits = 2) => shown("run", m, digits),
  degrees: (k: number, digits = 0) => shown("temperature", k, digits),
  /** Difference of temperatures, K. */
  rise: (k: number, digits = 1) => shown("rise", k, digits),
  /** Below the air outside, Pa. */
  vacuum: (pa: number, digits = 1) => shown("vacuum", pa, digits),
  pressure: (pa: number, digits = 0) => shown("pressure", pa, digits),
  mass: (kg: number, digits = 3) => shown("mass", kg, digits),
  area: (m2: number, digits = 2) => shown("area", m2, digits),
  /** What is counted in m or in kg. */
  amount: (n: number, unit: string, digits = 2) => shown(unit === "kg" ? "mass" : "run", n, digits),
};

export const percent = (part: number, digits = 0) => plain(part * 100, digits);

/** Signed fibre angle as written on a label: 0°, +45°, −45°, 90°. */
export function angle(deg: number) {
  const sign = deg < 0 ? "−" : deg > 0 && deg < 90 ? "+" : "";
  return `${sign}${Math.abs(deg)}°`;
}

/** A duration as people say it: "2 h 40", "35 min", "203 h". */
export function spell(seconds: number) {
  const m = Math.round(Math.abs(seconds) / 60);
  if (m < 60) return `${m} min`;
  const h = Math.floor(m / 60);
  return m % 60 === 0 || h >= 100 ? `${h} h` : `${h} h ${String(m % 60).padStart(2, "0")}`;
}

const week = 6 * 24 * 3600e3;

/** A moment as people say it: "Thu 14:20", or with its date when it is far. */
export function moment(iso: string | Date) {
  const t = new Date(iso);
  const clock = t.toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" });
  if (Math.abs(t.getTime() - Date.now()) < week)
    return `${t.toLocaleDateString("en-GB", { weekday: "short" })} ${clock}`;
  return `${date(t)} ${clock}`;
}

export function date(iso: string | Date) {
  return new Date(iso).toLocaleDateString("en-GB", { day: "numeric", month: "short", year: "numeric" });
}

export const clock = (iso: string) => new Date(iso).toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" });

/** "ply 4", "plies 4 and 6", "plies 1, 2 and 3". */
export function plies(numbers: number[]) {
  if (numbers.length === 1) return `ply ${numbers[0]}`;
  return `plies ${numbers.slice(0, -1).join(", ")} and ${numbers.at(-1)}`;
}

/** Runs of numbers written short: "1–3, 8". */
export function ranges(numbers: number[]) {
  const out: string[] = [];
  for (let i = 0; i < numbers.length;) {
    let j = i;
    while (j + 1 < numbers.length && numbers[j + 1] === numbers[j]! + 1) j++;
    out.push(j > i ? `${numbers[i]}–${numbers[j]}` : `${numbers[i]}`);
    i = j + 1;
  }
  return out.join(", ");
}

/** Local time as a datetime-local field wants it; empty for no time. */
export const fieldTime = (iso: string) => {
  if (!iso) return "";
  const t = new Date(iso);
  return new Date(t.getTime() - t.getTimezoneOffset() * 60e3).toISOString().slice(0, 16);
};

/** What a signature in the log says besides: "as inspected, by a quality person". */
export const signature = (l: { meaning?: string; role?: string }) =>
  l.meaning ? `signed as ${l.meaning}${l.role ? `, ${l.role}` : ""}` : "";

/** What an operation waits for, as one sentence: "waits for the kit and the tool". */
export function waitsFor(label: string[]) {
  const of = label.map((s) => s.replace(/^waits for /, ""));
  return of.length < 2 ? label.join("") : `waits for ${of.slice(0, -1).join(", ")} and ${of.at(-1)}`;
}
