// The net of a draped ply as it is drawn: cells by how much they shear, threads, and the node
// that somebody points at. All of it is the server's; here it is only put on paper.
import type { Schemas } from "../../contract/types";

export type Piece = Schemas["Draped"];
/** A place of the net, and which piece it belongs to. */
export type Node = Schemas["DrapeNode"] & { piece: number };
export type View = "space" | "above" | "front" | "side" | "slant";

export const views: Record<View, string> = {
  space: "In space",
  above: "From above",
  front: "From the front",
  side: "From the side",
  slant: "At a slant",
};

const slant = { x: Math.cos(Math.PI / 5), y: Math.sin(Math.PI / 5), up: Math.sin(Math.PI / 5.5) };

/** Where a place in space lies on the paper, y up. */
export function project(view: View, [x = 0, y = 0, z = 0]: number[]): [number, number] {
  switch (view) {
    case "above":
      return [x, y];
    case "front":
      return [x, z];
    case "side":
      return [y, z];
  }
  const far = x * slant.y + y * slant.x;
  return [x * slant.x - y * slant.y, far * slant.up + z * Math.cos(Math.PI / 5.5)];
}

export const nodeKey = (piece: number, panel: number, i: number, j: number) => `${piece}/${panel}:${i},${j}`;
const keyOf = (n: Node) => nodeKey(n.piece, n.p, n.i, n.j);

/** How much a cell shears, by the steps that the server gives: 0 hardly, 3 it locks. */
export const stepOf = (deg: number, scale: number[]) =>
  Math.max(0, scale.filter((from) => Math.abs(deg) >= from - 1e-9).length - 1);

export type Cells = { all: Node[]; nodes: Map<string, Node>; by: Node[][][] };

/** Cells by step: each four nodes, in turn. */
export function cells(pieces: Pick<Piece, "nodes">[], scale: number[]): Cells {
  const all = pieces.flatMap((p, piece) => p.nodes.map((n) => ({ ...n, piece })));
  const nodes = new Map(all.map((n) => [keyOf(n), n]));
  const by: Node[][][] = scale.map(() => []);
  for (const n of all) {
    const at = (di: number, dj: number) => nodes.get(nodeKey(n.piece, n.p, n.i + di, n.j + dj));
    const corners = [n, at(1, 0), at(1, 1), at(0, 1)];
    if (corners.some((c) => !c)) continue;
    const shear = corners.reduce((sum, c) => sum + c!.shear / 4, 0);
    by[stepOf(shear, scale)]!.push(corners as Node[]);
  }
  return { all, nodes, by };
}

/** Every so many threads are drawn, so that some thirty are seen either way. */
export function threads({ all }: Cells, every: number): Node[][] {
  const rows = new Map<string, Node[]>();
  for (const n of all) {
    if (n.j % every === 0) push(rows, `${n.piece}/${n.p}j${n.j}`, n);
    if (n.i % every === 0) push(rows, `${n.piece}/${n.p}i${n.i}`, n);
  }
  const out: Node[][] = [];
  for (const [key, row] of rows) {
    const along = key.includes("j") ? "i" : "j";
    row.sort((a, b) => a[along] - b[along]);
    let run: Node[] = [];
    for (const n of row) {
      if (run.length > 0 && n[along] !== run.at(-1)![along] + 1) {
        out.push(run);
        run = [];
      }
      run.push(n);
    }
    out.push(run);
  }
  return out.filter((r) => r.length > 1);
}

/** So that some thirty threads are seen either way. */
export const threadStep = (grid: Cells) => Math.max(1, Math.round(Math.sqrt(grid.all.length) / 26));

function push(m: Map<string, Node[]>, key: string, n: Node) {
  const list = m.get(key);
  if (list) list.push(n);
  else m.set(key, [n]);
}

/** The node nearest to a place on the paper. */
export function nearest(all: Node[], at: [number, number], of: (n: Node) => [number, number]) {
  let best: Node | undefined;
  let least = Infinity;
  for (const n of all) {
    const [x, y] = of(n);
    const d = (x - at[0]) ** 2 + (y - at[1]) ** 2;
    if (d < least) [least, best] = [d, n];
  }
  return best;
}

const apart = (a: number[], b: number[]) => Math.hypot(a[0]! - b[0]!, a[1]! - b[1]!, a[2]! - b[2]!);

/** The next node along a thread, over a dart or into the next piece where its own ends. */
export function walk(grid: Cells, from: Node, di: number, dj: number): Node | undefined {
  const own = grid.nodes.get(nodeKey(from.piece, from.p, from.i + di, from.j + dj));
  if (own) return own;
  const back = grid.nodes.get(nodeKey(from.piece, from.p, from.i - di, from.j - dj));
  if (!back) return undefined;
  const ahead = from.at.map((v, k) => 2 * v - back.at[k]!);
  const reach = apart(from.at, back.at) * 0.9;
  let best: Node | undefined;
  let least = reach;
  for (const n of grid.all) {
    if (n.piece === from.piece && n.p === from.p) continue;
    const d = apart(n.at, ahead);
    if (d < least) [least, best] = [d, n];
  }
  return best;
}

/** Arrow keys, as steps along warp and weft. */
export const arrows: Record<string, [number, number]> = {
  ArrowRight: [1, 0],
  ArrowLeft: [-1, 0],
  ArrowUp: [0, 1],
  ArrowDown: [0, -1],
};

/** The node at the start of the first piece. */
export const first = (grid: Cells) => grid.nodes.get(nodeKey(0, 0, 0, 0)) ?? grid.all[0];

/** The node that stands for a place that was picked before the ply was laid anew. */
export const again = (grid: Cells, n: Node) => grid.nodes.get(keyOf(n));
