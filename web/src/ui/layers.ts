// What a drawing of layers needs, whether they come from a part's page or from
// a kit.
import type { Schemas } from "../contract/types";

export type Layer = Pick<
  Schemas["LayerView"],
  "key" | "label" | "kind" | "material" | "woven" | "angleDeg" | "faceUp" | "thickness" | "area"
> & { outline: number[][] };

const outlined = new WeakMap<Schemas["Drawing"], Layer[]>();
const none: Layer[] = [];

/** The layers of a master with their outlines; the same list for the same answer. */
export function layersOf(d: Schemas["Drawing"] | null): Layer[] {
  if (!d) return none;
  let all = outlined.get(d);
  if (!all) outlined.set(d, (all = d.layers.map((l) => ({ ...l, outline: d.shapes[l.shape]! }))));
  return all;
}
