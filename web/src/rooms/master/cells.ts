// What stands in a cell of the sheet, what a typed text makes of it, and what is
// offered: pure functions of an item and a column.
import type { Schemas } from "../../contract/types";
import { angle } from "../../ui/format";
import { readNumber } from "../../ui/number";
import type { Item } from "./edits";
import { ownOf, shownNumber, unitName, value } from "../../ui/units";

type Material = Pick<Schemas["MaterialView"], "id" | "name">;
export type Field = "kind" | "materialId" | "angleDeg" | "outline" | "x" | "y" | "faceUp";

/** The columns of the sheet; those without a width share what is left. */
export const columns: { field: Field; head: string; number?: boolean; width?: number }[] = [
  { field: "kind", width: 92, head: "Kind" },
  { field: "materialId", width: 134, head: "Material" },
  { field: "angleDeg", width: 58, head: "Angle", number: true },
  { field: "outline", head: "Outline" },
  { field: "x", width: 52, head: "x, mm", number: true },
  { field: "y", width: 52, head: "y, mm", number: true },
  { field: "faceUp", width: 50, head: "Face" },
];

export const kinds: Item["kind"][] = ["ply", "film adhesive", "core", "peel ply", "insert", "potting", "fillet"];
/** Items that cover an area; the others are lumps at a place. */
export const layered = (i: Item) => ["ply", "film adhesive", "core", "peel ply"].includes(i.kind);

export function shown(i: Item, field: Field, materials: Material[]): string {
  switch (field) {
    case "materialId":
      return materials.find((m) => m.id === i.materialId)?.name ?? i.name ?? "";
    case "angleDeg":
      return i.kind === "ply" ? (i.expr?.angleDeg ?? angle(i.angleDeg)) : "";
    case "outline":
      return layered(i) ? (i.outline ?? "") : "";
    case "x":
    case "y":
      return i.expr?.[field] ?? place(i[field]);
    case "faceUp":
      return i.kind === "ply" ? (i.faceUp ? "up" : "down") : "";
    default:
      return i.kind;
  }
}

/** A place on the tool, m, as the sheet shows it. */
const place = (m: number) => shownNumber(+value("size", m).toFixed(unitName("size") === "mm" ? 3 : 5));

/** What a typed text puts into a field, or a sentence that says why it cannot. */
export function read(i: Item, field: Field, text: string, names: string[]): Partial<Item> | string {
  switch (field) {
    case "angleDeg":
    case "x":
    case "y": {
      const mine = field === "angleDeg" ? undefined : ownOf("x, mm", "mm");
      const read = readNumber(text, field === "angleDeg" ? "°" : (mine?.unit ?? "mm"));
      if (!("value" in read)) {
        // A family's item takes an expression of the parameters instead.
        const t = text.trim().replace("−", "-").replace("°", "");
        if (names.some((n) => new RegExp(`\\b${n}\\b`).test(t))) return { expr: { ...i.expr, [field]: t } };
        return "message" in read ? read.message : `“${text}” is not a number`;
      }
      const v = mine ? mine.from(read.value) : read.value;
      const rest = Object.fromEntries(Object.entries(i.expr ?? {}).filter(([k]) => k !== field));
      const expr = Object.keys(rest).length > 0 ? rest : undefined;
      return field === "angleDeg" ? { angleDeg: v, expr } : { [field]: v / 1e3, expr };
    }
    case "materialId":
      return { materialId: Number(text) || undefined };
    case "faceUp":
      return { faceUp: text === "up" };
    case "kind":
      return { kind: text as Item["kind"] };
    default:
      return { outline: text };
  }
}

export const choice = (f: Field) => f === "kind" || f === "materialId" || f === "outline" || f === "faceUp";

export function edited(i: Item, field: Field): string {
  switch (field) {
    case "materialId":
      return String(i.materialId ?? "");
    case "faceUp":
      return i.faceUp ? "up" : "down";
    case "x":
    case "y":
      return i.expr?.[field] ?? place(i[field]);
    case "angleDeg":
      return i.expr?.angleDeg ?? String(i.angleDeg);
    default:
      return i[field] ?? "";
  }
}
