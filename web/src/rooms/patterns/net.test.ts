import { describe, expect, it } from "vitest";
import { cells, nearest, nodeKey, project, stepOf, threads, walk, type Node } from "./net";

const scale = [0, 14, 28, 42];
const grid = (n: number, shear: (i: number, j: number) => number, dx = 0): { nodes: Omit<Node, "piece">[] } => ({
  nodes: Array.from({ length: n * n }, (_, k) => {
    const [i, j] = [k % n, Math.floor(k / n)];
    return { p: 0, i, j, at: [i + dx, j, i + j], shear: shear(i, j), warp: 0, weft: 90 };
  }),
});
const told = (n: Node) => `${n.i},${n.j}`;

describe("the net on paper", () => {
  it("sorts cells by how near they are to locking", () => {
    expect([0, 13, 15, 29, 44, 60, -44].map((d) => stepOf(d, scale))).toEqual([0, 0, 1, 2, 3, 3, 3]);
    const c = cells([grid(4, (i) => i * 20)], scale);
    expect(c.by.map((s) => s.length)).toEqual([3, 0, 3, 3]);
    expect(c.by[0]![0]!.map(told)).toEqual(["0,0", "1,0", "1,1", "0,1"]);
  });
  it("draws threads in runs, and breaks them where nodes lack", () => {
    const all = grid(5, () => 0).nodes.filter((n) => !(n.i === 2 && n.j === 0));
    const runs = threads(cells([{ nodes: all }], scale), 4);
    expect(runs.map((r) => r.map(told).join(" ")).sort()).toEqual([
      "0,0 0,1 0,2 0,3 0,4",
      "0,0 1,0",
      "0,4 1,4 2,4 3,4 4,4",
      "3,0 4,0",
      "4,0 4,1 4,2 4,3 4,4",
    ]);
  });
  it("keeps pieces apart, and walks from one into the next", () => {
    const c = cells([grid(4, () => 0), grid(4, () => 0, 3)], scale);
    expect(c.by[0]).toHaveLength(18);
    const at = (piece: number, i: number, j: number) => c.nodes.get(nodeKey(piece, 0, i, j))!;
    expect(walk(c, at(0, 1, 1), 1, 0)).toBe(at(0, 2, 1));
    // The second piece begins where the first ends, z apart: its node at the same height is taken.
    expect(walk(c, at(0, 3, 1), 1, 0)?.piece).toBeUndefined();
    const level = cells(
      [
        grid(4, () => 0),
        { nodes: grid(4, () => 0, 3).nodes.map((n) => ({ ...n, at: [n.at[0]!, n.at[1]!, n.at[0]! + n.at[1]!] })) },
      ],
      scale,
    );
    expect(walk(level, level.nodes.get(nodeKey(0, 0, 3, 1))!, 1, 0)).toMatchObject({ piece: 1, i: 1, j: 1 });
    expect(walk(level, level.nodes.get(nodeKey(0, 0, 0, 1))!, -1, 0)).toBeUndefined();
  });
  it("looks from where it is asked to, and finds what is pointed at", () => {
    expect(project("above", [1, 2, 3])).toEqual([1, 2]);
    expect(project("front", [1, 2, 3])).toEqual([1, 3]);
    expect(project("side", [1, 2, 3])).toEqual([2, 3]);
    const { all } = cells([grid(4, () => 0)], scale);
    expect(nearest(all, [2.2, 0.9], (n) => project("above", n.at))).toMatchObject({ i: 2, j: 1 });
  });
});
