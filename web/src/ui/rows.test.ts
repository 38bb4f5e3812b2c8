import { describe, expect, test } from "vitest";
import { rowsOf } from "./rows";

const bar = (from: number, to: number) => ({
  from: new Date(from * 60_000).toISOString(),
  to: new Date(to * 60_000).toISOString(),
});

describe("rowsOf", () => {
  test("what follows stays in the row, what overlaps goes below", () => {
    expect(rowsOf([bar(0, 10), bar(10, 20), bar(15, 30), bar(20, 25), bar(26, 40)])).toEqual({
      rows: [0, 0, 1, 0, 0],
      count: 2,
    });
  });
  test("an empty lane has its row", () => {
    expect(rowsOf([])).toEqual({ rows: [], count: 1 });
  });
  test("no two bars of a row overlap", () => {
    const bars = Array.from({ length: 60 }, (_, k) => bar((k * 37) % 200, ((k * 37) % 200) + 5 + ((k * 13) % 40)));
    bars.sort((a, b) => a.from.localeCompare(b.from));
    const { rows, count } = rowsOf(bars);
    for (let row = 0; row < count; row++) {
      const mine = bars.filter((_, k) => rows[k] === row);
      expect(mine.length).toBeGreaterThan(0);
      for (let k = 1; k < mine.length; k++) expect(mine[k]!.from >= mine[k - 1]!.to).toBe(true);
    }
  });
});
