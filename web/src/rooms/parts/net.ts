// The net of a draped ply as it is drawn: cells by how much they shear, threads, and the node
// that somebody points at. All of it is the server's; here it is only put on paper.
import type { Schemas } from "../../contract/types";

export type Node = Schemas["DrapeNode"];
export type View = "above" | "front" | "side" | "slant";

export const views: Record<View, string> = {
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

export const nodeKey = (i: number, j: number) => `${i},${j}`;

/** How much a cell shears, in steps of a third of what locks: 0 hardly, 3 it locks. */
export const steps = 4;
export const stepOf = (deg: number, lock: number) =>
  Math.min(steps - 1, Math.floor((Math.abs(deg) / (lock > 0 ? lock : 45)) * (steps - 1) + 1e-9));

export type Cells = { nodes: Map<string, Node>; by: Node[][][] };

/** Cells by step: each four nodes, in turn. */
export function cells(all: Node[], lock: number): Cells {
  const nodes = new Map(all.map((n) => [nodeKey(n.i, n.j), n]));
  const by: Node[][][] = Array.from({ length: steps }, () => []);
  for (const n of all) {
    const corners = [
      n,
      nodes.get(nodeKey(n.i + 1, n.j)),
      nodes.get(nodeKey(n.i + 1, n.j + 1)),
      nodes.get(nodeKey(n.i, n.j + 1)),
    ];
    if (corners.some((c) => !c)) continue;
    const shear = corners.reduce((sum, c) => sum + c!.shear / 4, 0);
    by[stepOf(shear, lock)]!.push(corners as Node[]);
  }
  return { nodes, by };
}

/** Every so many threads are drawn, so that some thirty are seen either way. */
export function threads({ nodes }: Cells, every: number): Node[][] {
  const rows = new Map<string, Node[]>();
  for (const n of nodes.values()) {
    if (n.j % every === 0) push(rows, `j${n.j}`, n);
    if (n.i % every === 0) push(rows, `i${n.i}`, n);
  }
  const out: Node[][] = [];
  for (const [key, row] of rows) {
    const along = key.startsWith("j") ? "i" : "j";
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
