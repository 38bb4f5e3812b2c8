import { describe, expect, test } from "vitest";
import type { Master } from "../master/edits";
import { beside, drawn, type Operation, type Placed } from "./lanes";
import { addedAfter, changed, takenOut, waiting } from "./operations";

const rooms: Record<string, Placed["room"]> = {
  cut: "cut",
  lay: "layup",
  join: "layup",
  cure: "cure",
  demould: "finish",
  trim: "finish",
  release: "release",
};
const op = (kind: Operation["kind"], stages: string[], after: string[], key: string = kind): Operation => ({
  key,
  kind,
  stages,
  after,
});
const placed = (all: Operation[]): Placed[] =>
  all.map((o, k) => ({
    key: o.key,
    number: k + 1,
    label: o.kind,
    short: o.kind,
    room: rooms[o.kind]!,
    waits: [],
    start: 0,
    end: 0,
    longest: false,
  }));
const stages = [
  { key: "a", name: "Left", kind: "pre-form" as const },
  { key: "b", name: "Right", kind: "pre-form" as const },
];
const hollow = [
  op("cut", ["a"], [], "cut a"),
  op("cut", ["b"], [], "cut b"),
  op("lay", ["a"], ["cut a"], "lay a"),
  op("lay", ["b"], ["cut b"], "lay b"),
  op("join", ["a", "b"], ["lay a", "lay b"]),
  op("cure", ["a", "b"], ["join"]),
  op("demould", ["a", "b"], ["cure"]),
  op("trim", [], ["demould"]),
  op("release", [], ["trim"]),
];

describe("the drawing of a route", () => {
  const d = drawn(hollow, placed(hollow), stages);
  const at = (key: string) => d.boxes.find((b) => b.key === key)!;
  test("has a lane for each stage, one for the whole and one for the finish", () => {
    expect(d.lanes.map((l) => l.name)).toEqual(["Left", "Right", "Together", "Finish"]);
    expect(at("lay a").row).toBe(0);
    expect(at("lay b").row).toBe(1);
    expect(at("join").row).toBe(2);
    expect(at("trim").row).toBe(3);
  });
  test("stands everything right of what it waits for, but the finish, which begins anew", () => {
    for (const o of hollow.filter((o) => o.kind !== "trim"))
      for (const a of o.after ?? []) expect(at(o.key).column).toBeGreaterThan(at(a).column);
    expect(at("trim").column).toBeLessThan(at("demould").column);
    expect(d.columns).toBe(at("demould").column + 1);
  });
  test("puts no box onto another", () => {
    const both = [op("cut", ["a"], []), op("lay", ["a"], [], "lay")];
    const two = drawn(both, placed(both), stages);
    expect(new Set(two.boxes.map((b) => `${b.column}/${b.row}`)).size).toBe(2);
    expect(two.lanes).toHaveLength(1);
    expect(two.lanes[0]!.rows).toBe(2);
  });
  test("leads arrows to the nearest box that way, and nowhere from the edge", () => {
    expect(beside(d.boxes, "cut a", 1, 0)).toBe("lay a");
    expect(beside(d.boxes, "lay a", 0, 1)).toBe("lay b");
    expect(beside(d.boxes, "join", -1, 0)).toBe("lay b");
    expect(beside(d.boxes, "cut a", -1, 0)).toBeUndefined();
    expect(beside(d.boxes, "gone", 1, 0)).toBe("cut a");
  });
});

describe("changes of a route", () => {
  const doc = { format: "juxta master 1", outlines: [], stages: [] } as unknown as Master;
  const after = (m: Master) => Object.fromEntries((m.route ?? []).map((o) => [o.key, o.after ?? []]));
  test("a new operation comes between one and what waited for it", () => {
    const [m, key] = addedAfter(doc, hollow, "cure", "trim");
    expect(key).toBe("trim 2");
    expect(after(m)["trim 2"]).toEqual(["cure"]);
    expect(after(m).demould).toEqual(["trim 2"]);
    expect(m.format).toBe("juxta master 2");
    expect(addedAfter(doc, [], undefined, "cut")[0].route).toEqual([{ key: "cut", kind: "cut" }]);
  });
  test("what waited for one that is taken out waits for what that waited for", () => {
    expect(after(takenOut(doc, hollow, "join")).cure).toEqual(["lay a", "lay b"]);
    expect(after(takenOut(doc, hollow, "cut a"))["lay a"]).toEqual([]);
  });
  test("one waits for another, or not any more", () => {
    expect(after(waiting(doc, hollow, "trim", "cure", true)).trim).toEqual(["demould", "cure"]);
    expect(after(waiting(doc, hollow, "join", "lay b", false)).join).toEqual(["lay a"]);
    expect(changed(doc, hollow, "trim", { place: "bench 3" }).route!.find((o) => o.key === "trim")!.place).toBe(
      "bench 3",
    );
  });
});
