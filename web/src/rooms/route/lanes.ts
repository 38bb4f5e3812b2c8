// Where the operations of a route stand in its drawing: lanes by stage, time from left
// to right. Pure functions of the route.
import type { Schemas } from "../../contract/types";

export type Operation = Schemas["Operation"];
export type Placed = Schemas["OperationView"];
type Stage = Pick<Schemas["Stage"], "key" | "name" | "kind">;

/** column and row from 0; rows are those of the whole drawing. */
export type Box = { key: string; column: number; row: number };
export type Lane = { key: string; name: string; row: number; rows: number };
export type Drawn = { boxes: Box[]; lanes: Lane[]; columns: number; rows: number };

const whole = "the whole part";
const finish = "finish";

/** The lane of an operation: its one stage, the whole part, or what comes after the tool. */
export function laneOf(o: Operation, placed: Placed, stages: Stage[]): string {
  if (placed.room === "finish" && o.kind !== "demould" && (o.stages ?? []).length !== 1) return finish;
  if (placed.room === "release") return finish;
  return o.stages?.length === 1 && stages.length > 1 ? o.stages[0]! : whole;
}

/** Lays a route out: each operation right of what it waits for, none on another. */
export function drawn(operations: Operation[], placed: Placed[], stages: Stage[]): Drawn {
  const of = new Map(operations.map((o) => [o.key, o]));
  const column = new Map<string, number>();
  const lane = new Map<string, string>();
  // placed comes in an order in which nothing stands before what it waits for.
  for (const p of placed) {
    const o = of.get(p.key)!;
    column.set(p.key, Math.max(0, ...(o.after ?? []).map((a) => (column.get(a) ?? -1) + 1)));
    lane.set(p.key, laneOf(o, p, stages));
  }
  // What comes last begins anew at the left, so that the drawing is no wider than it must be.
  const last = placed.filter((p) => lane.get(p.key) === finish);
  const before = placed.filter((p) => lane.get(p.key) !== finish);
  const first = Math.min(...last.map((p) => column.get(p.key)!));
  const end = Math.max(-1, ...before.map((p) => column.get(p.key)!));
  if (last.length > 0 && first > end) {
    const width = Math.max(...last.map((p) => column.get(p.key)!)) - first + 1;
    const by = first - Math.max(0, end - width + 1);
    for (const p of last) column.set(p.key, column.get(p.key)! - by);
  }
  const names: [string, string][] = [
    ...stages.map((s): [string, string] => [s.key, s.name || s.kind]),
    [whole, stages.length > 1 ? "Together" : (stages[0]?.name ?? "Part")],
    [finish, "Finish"],
  ];
  const boxes: Box[] = [];
  const lanes: Lane[] = [];
  let row = 0;
  for (const [key, name] of names) {
    const mine = placed.filter((p) => lane.get(p.key) === key);
    if (mine.length === 0) continue;
    const taken: Set<number>[] = [];
    for (const p of mine) {
      const at = column.get(p.key)!;
      let k = taken.findIndex((t) => !t.has(at));
      if (k < 0) k = taken.push(new Set()) - 1;
      taken[k]!.add(at);
      boxes.push({ key: p.key, column: at, row: row + k });
    }
    lanes.push({ key, name, row, rows: taken.length });
    row += taken.length;
  }
  return { boxes, lanes, columns: Math.max(0, ...boxes.map((b) => b.column + 1)), rows: row };
}

/** The box that an arrow leads to from another. */
export function beside(boxes: Box[], from: string, dColumn: number, dRow: number): string | undefined {
  const at = boxes.find((b) => b.key === from);
  if (!at) return boxes[0]?.key;
  const far = (b: Box) =>
    dRow === 0
      ? (b.column - at.column) * dColumn + 100 * Math.abs(b.row - at.row)
      : (b.row - at.row) * dRow * 100 + Math.abs(b.column - at.column);
  const there = boxes.filter((b) => (dRow === 0 ? (b.column - at.column) * dColumn > 0 : (b.row - at.row) * dRow > 0));
  return there.sort((a, b) => far(a) - far(b))[0]?.key;
}
