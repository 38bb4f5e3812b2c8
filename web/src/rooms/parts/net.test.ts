import { describe, expect, it } from "vitest";
import { cells, nearest, nodeKey, project, stepOf, threads, type Node } from "./net";

const grid = (n: number, shear: (i: number, j: number) => number): Node[] =>
  Array.from({ length: n * n }, (_, k) => {
    const [i, j] = [k % n, Math.floor(k / n)];
    return { i, j, at: [i, j, i + j], shear: shear(i, j), warp: 0, weft: 90 };
  });

describe("the net on paper", () => {
  it("sorts cells by how near they are to locking", () => {
    expect([0, 13, 15, 29, 44, 60, -44].map((d) => stepOf(d, 42))).toEqual([0, 0, 1, 2, 3, 3, 3]);
    const c = cells(
      grid(4, (i) => i * 20),
      42,
    );
    expect(c.by.map((s) => s.length)).toEqual([3, 0, 3, 3]);
    expect(c.by[0]![0]!.map((n) => nodeKey(n.i, n.j))).toEqual(["0,0", "1,0", "1,1", "0,1"]);
  });
  it("draws threads in runs, and breaks them where nodes lack", () => {
    const all = grid(5, () => 0).filter((n) => !(n.i === 2 && n.j === 0));
    const runs = threads(cells(all, 42), 4);
    expect(runs.map((r) => r.map((n) => nodeKey(n.i, n.j)).join(" ")).sort()).toEqual([
      "0,0 0,1 0,2 0,3 0,4",
      "0,0 1,0",
      "0,4 1,4 2,4 3,4 4,4",
      "3,0 4,0",
      "4,0 4,1 4,2 4,3 4,4",
    ]);
  });
  it("looks from where it is asked to, and finds what is pointed at", () => {
    expect(project("above", [1, 2, 3])).toEqual([1, 2]);
    expect(project("front", [1, 2, 3])).toEqual([1, 3]);
    expect(project("side", [1, 2, 3])).toEqual([2, 3]);
    const all = grid(4, () => 0);
    expect(nearest(all, [2.2, 0.9], (n) => project("above", n.at))).toMatchObject({ i: 2, j: 1 });
  });
});
