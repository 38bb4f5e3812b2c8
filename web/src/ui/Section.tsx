// The stack in section, ply 1 on the tool: every ply as a bar at its real
// thickness (exaggerated by a stated factor) and its real extent along the
// cut, which runs through the smallest ply.
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
  const names = 168;
  const across = (width - names - 8) / (b.x1 - b.x0);
  const total = plies.reduce((t, p) => t + p.thickness, 0);
  const gap = 2;
  const up = (height - 30 - gap * plies.length) / total;
  const factor = Math.round(up / across);
  let top = height - 24;
  const bars = plies.map((p) => {
    const h = p.thickness * up;
    top -= h + gap;
    return { p, h, y: top, x: extent(p.outline, level) };
  });
  return (
    <svg viewBox={`0 0 ${width} ${height}`} width="100%" role="img" aria-label={label}>
      <defs>
        {plies.map((p) => (
          <HatchPattern key={p.number} id={`${id}${p.number}`} of={p} />
        ))}
      </defs>
      {bars.map(({ p, h, y, x }) => (
        <g key={p.number}>
          {x && (
            <rect
              x={(x[0] - b.x0) * across + 2}
              y={y}
              width={(x[1] - x[0]) * across}
              height={h}
              fill={`url(#${id}${p.number})`}
              stroke="var(--ink)"
              strokeWidth={changed.includes(p.number) ? 3 : 1.2}
            />
          )}
          <text
            x={width - names + 8}
            y={y + h / 2 + 4.5}
            fontSize={Math.min(13, h + 3)}
            fontWeight={changed.includes(p.number) ? 700 : 400}
            fill="var(--ink)"
          >
            {p.number} · {angle(p.angleDeg)} {p.material}
          </text>
        </g>
      ))}
      <path d={`M0,${height - 22}H${width - names}`} stroke="var(--ink)" strokeWidth={4} />
      <text x={0} y={height - 4} fontSize={13} fill="var(--g2)">
        tool · thickness drawn ×{factor}
      </text>
    </svg>
  );
}
