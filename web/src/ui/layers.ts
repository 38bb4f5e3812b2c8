// What a drawing of layers needs, whether they come from a part's page or from
// a kit.
import type { Schemas } from "../app/api";

export type Layer = Pick<
  Schemas["LayerView"],
  "key" | "label" | "kind" | "material" | "woven" | "angleDeg" | "outline" | "faceUp" | "thickness" | "area"
>;

/** Plies of a build as layers. */
export const asLayers = (plies: Schemas["PlyView"][]): Layer[] =>
  plies.map((p) => ({ ...p, key: String(p.number), label: String(p.number), kind: "ply" }));
