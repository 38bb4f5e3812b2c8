// What a drawing of layers needs, whether they come from a part's page or from
// a kit.
import type { Schemas } from "../app/api";

export type Layer = Pick<
  Schemas["LayerView"],
  "key" | "label" | "kind" | "material" | "woven" | "angleDeg" | "faceUp" | "thickness" | "area"
> & { outline: number[][] };

const drawn = new WeakMap<Schemas["Worked"], Layer[]>();

/** The layers of a master with their outlines; the same list for the same answer. */
export function layersOf(w: Schemas["Worked"] | undefined): Layer[] {
  if (!w) return [];
  let all = drawn.get(w);
  if (!all) drawn.set(w, (all = w.layers.map((l) => ({ ...l, outline: w.shapes[l.shape]! }))));
  return all;
}
