// The stack in section, ply 1 on the tool: every ply at its real thickness
// (exaggerated by a stated factor) and its real extent along the cut, which
// runs through the smallest ply. What lies above a drop-off comes down over it.
import { useId } from "react";
import type { Schemas } from "../app/api";
import { bounds, HatchPattern, type Outline } from "./Hatch";
import { angle } from "./format";

type Ply = Schemas["PlyView"];

/** Where a level line lies inside an outline. */
function extent(outline: Outline, y: number): [number, number] | undefined {
  const xs: number[] = [];
  outline.forEach((a, i) => {
    const b = outline[(i + 1) % outline.length]!;
    if (a[1]! <= y !== b[1]! <= y) xs.push(a[0]! + ((y - a[1]!) / (b[1]! - a[1]!)) * (b[0]! - a[0]!));
  });
  return xs.length < 2 ? undefined : [Math.min(...xs), Math.max(...xs)];
}

/** An edge over stretches of even level, with a short ramp down beside every step. */
function edge(cuts: number[], levels: number[]): [number, number][] {
  const points: [number, number][] = [[cuts[0]!, levels[0]!]];
  for (let i = 1; i < levels.length; i++) {
    const [x, before, after] = [cuts[i]!, levels[i - 1]!, levels[i]!];
    if (before === after) continue;
    const down = before < after; // the screen's y grows downwards
    const ramp = Math.min(7, (down ? cuts[i + 1]! - x : x - cuts[i - 1]!) / 2);
    points.push(
      ...((down
        ? [
            [x, before],
            [x + ramp, after],
          ]
        : [
            [x - ramp, before],
            [x, after],
          ]) as [number, number][]),
    );
  }
  points.push([cuts.at(-1)!, levels.at(-1)!]);
  return points;
}

export function Section({
  plies,
  changed = [],
  width,
  height,
  label,
}: {
  plies: Ply[];
  changed?: number[];
  width: number;
  height: number;
  label: string;
}) {
  const id = useId().replaceAll(":", "");
  if (plies.length === 0) return null;
  const smallest = plies.reduce((a, p) => (p.area < a.area ? p : a));
  const s = bounds([smallest.outline]);
  const level = (s.y0 + s.y1) / 2 + (s.y1 - s.y0) * 1e-3;
  const b = bounds(plies.map((p) => p.outline));
  const names = 176;
  const across = (width - names - 8) / (b.x1 - b.x0);
  const extents = plies.map((p) => extent(p.outline, level)?.map((x) => (x - b.x0) * across + 2));
  const cuts = [...new Set(extents.flatMap((x) => x ?? []))].sort((p, q) => p - q);
  const under = (x: number[] | undefined, k: number) => x !== undefined && x[0]! <= cuts[k]! && cuts[k + 1]! <= x[1]!;
  const stretches = cuts.slice(1).map((_, k) => k);
  const thickest = Math.max(...stretches.map((k) => plies.reduce((t, p, i) => t + (under(extents[i], k) ? p.thickness : 0), 0)));
  const floor = height - 24;
  const up = (floor - 4) / thickest;
  const factor = Math.round(up / across);
  const heights = stretches.map(() => floor); // how high the stack already is, per stretch
  const drawn = plies.map((p, i) => {
    const mine = stretches.filter((k) => under(extents[i], k));
    if (mine.length === 0) return { p, d: "", end: undefined };
    const bottom = mine.map((k) => heights[k]!);
    for (const k of mine) heights[k]! -= p.thickness * up;
    const top = mine.map((k) => heights[k]! + 1.5);
    const at = [...mine.map((k) => cuts[k]!), cuts[mine.at(-1)! + 1]!];
    const outline = [...edge(at, bottom), ...edge(at, top).reverse()];
    const d = outline.map(([x, y], n) => `${n ? "L" : "M"}${x.toFixed(1)},${y.toFixed(1)}`).join("") + "Z";
    return { p, d, end: [at.at(-1)!, (bottom.at(-1)! + top.at(-1)!) / 2] as const };
  });
  const line = (floor - 4) / plies.length;
  return (
    <svg viewBox={`0 0 ${width} ${height}`} width="100%" role="img" aria-label={label}>
      <defs>
        {plies.map((p) => (
          <HatchPattern key={p.number} id={`${id}${p.number}`} of={p} />
        ))}
      </defs>
      {drawn.map(({ p, d, end }, i) => {
        const y = floor - (i + 0.5) * line;
        const marked = changed.includes(p.number);
        return (
          <g key={p.number}>
            <path d={d} fill={`url(#${id}${p.number})`} stroke="var(--ink)" strokeWidth={marked ? 3 : 1.2} />
            {end && <path d={`M${end[0]},${end[1]}L${width - names + 4},${y}`} stroke="var(--g3)" strokeWidth={0.8} />}
            {(line >= 9 || marked) && (
              <text
                x={width - names + 8}
                y={y + 4.5}
                fontSize={Math.min(13, Math.max(10, line))}
                fontWeight={marked ? 700 : 400}
                fill="var(--ink)"
              >
                {p.number} · {angle(p.angleDeg)} {p.material}
              </text>
            )}
          </g>
        );
      })}
      <path d={`M0,${height - 22}H${width - names}`} stroke="var(--ink)" strokeWidth={4} />
      <text x={0} y={height - 4} fontSize={13} fill="var(--g2)">
        tool · thickness drawn ×{factor}
      </text>
    </svg>
  );
}
