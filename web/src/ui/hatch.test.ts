import { expect, test } from "vitest";
import { edges } from "./Hatch";

test("edges are measured from the datum, whatever origin an outline was drawn from", () => {
  expect(
    edges([
      [0.05, 0.02],
      [0.0249999, 0.12],
      [0.21, 0.1],
    ]),
  ).toEqual({ x: 0.025, y: 0.02 });
  expect(
    edges([
      [1e-9, -1e-9],
      [0.4, 0],
      [0.4, 0.3],
    ]),
  ).toEqual({ x: 0, y: 0 });
});
