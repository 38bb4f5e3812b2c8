// The stack along a line, as the server cut it: drop-offs, pads, core ramps.
// Thickness is drawn larger than length by a stated factor.
import { memo, useId, useMemo } from "react";
import type { Schemas } from "../../app/api";
import { Hatches, hatchKey } from "../../ui/Hatch";
import { angle } from "../../ui/format";
import type { Layer } from "../../ui/layers";

/** The outline of a course on the drawing: what turns by less than half a unit is left out. */
function outlined(at: number[][], x: (v: number) => number, y: (v: number) => number): string {
  const side = (face: 1 | 2, stations: number[][]) => {
    const kept: string[] = [];
    let [px, py] = [Infinity, Infinity];
    stations.forEach((a, k) => {
      const [ax, ay] = [x(a[0]!), y(a[face]!)];
      if (k > 0 && k < stations.length - 1 && Math.abs(ax - px) < 0.5 && Math.abs(ay - py) < 0.5) return;
      [px, py] = [ax, ay];
      kept.push(`${Math.round(ax * 10) / 10},${Math.round(ay * 10) / 10}`);
    });
    return kept.join("L");
  };
  return `M${side(1, at)}L${side(2, at.toReversed())}Z`;
}

/** Of a stroke's full width: in a course drawn thinner than twice that no hatch is seen. */
const hatched = 0.5;

// It is drawn anew only when something of it changed: a stack has hundreds of courses.
export const SectionView = memo(SectionOf);

function SectionOf({
  section,
  layers,
  chosen,
  found,
  width,
  height,
  label,
  pick,
}: {
  section: Schemas["SectionView"];
  /** Those that the courses are of. */
  layers: Layer[];
  chosen: string[];
  found: Set<string>;
  width: number;
  height: number;
  label: string;
  pick?: (key: string) => void;
}) {
  const id = useId().replaceAll(":", "");
  const names = 168;
  const across = (width - names - 8) / section.length;
  const floor = height - 24;
  const up = (floor - 6) / Math.max(section.height, 1e-9);
  const x = (v: number) => 2 + v * across;
  const y = (v: number) => floor - v * up;
  const paths = useMemo(
    () =>
      section.courses.map((c) =>
        outlined(
          c.at,
          (v) => 2 + v * across,
          (v) => floor - v * up,
        ),
      ),
    [section, across, floor, up],
  );
  // Where hundreds of layers are thinner than a line, lines are thinner still.
  const fine = useMemo(() => layers.map((l) => Math.min(1, (l.thickness * up) / 4)), [layers, up]);
  const fills = useMemo(() => layers.map(hatchKey), [layers]);
  const last = new Map(section.courses.map((c) => [layers[c.layer]!.key, c.at.at(-1)!]));
  const shown = layers.filter((l) => last.has(l.key));
  const on = new Set(chosen);
  const line = Math.min(17, (floor - 4) / Math.max(1, shown.length));
  return (
    <svg viewBox={`0 0 ${width} ${height}`} width="100%" role="img" aria-label={label}>
      <defs>
        <Hatches prefix={id} of={layers} />
      </defs>
      {section.courses.map((c, k) => {
        const { key } = layers[c.layer]!;
        const thin = fine[c.layer]!;
        return (
          // The table and its keys choose as well.

          <path
            key={k}
            onClick={() => pick?.(key)}
            d={paths[k]}
            fill={thin < hatched ? "var(--g4)" : `url(#${id}${fills[c.layer]})`}
            stroke={found.has(key) ? "var(--brick)" : "var(--ink)"}
            strokeWidth={on.has(key) ? Math.max(1.2, 3.5 * thin) : (found.has(key) ? 2.2 : 1) * thin}
          />
        );
      })}
      {shown.map((l, i) => {
        const end = last.get(l.key)!;
        const ty = floor - (i + 0.5) * ((floor - 4) / shown.length);
        const bold = on.has(l.key);
        if (line < 9 && !bold) return null;
        return (
          <g key={l.key}>
            <path
              d={`M${x(end[0]!)},${y((end[1]! + end[2]!) / 2)}L${width - names + 4},${ty}`}
              stroke="var(--g3)"
              strokeWidth={0.8}
            />
            <text
              x={width - names + 8}
              y={ty + 4.5}
              fontSize={bold ? 14 : Math.min(13, Math.max(10, line))}
              fontWeight={bold ? 700 : 400}
              fill="var(--ink)"
            >
              {l.kind === "ply" ? `${l.label} · ${angle(l.angleDeg)} ` : `${l.label} `}
              {l.kind === "ply" ? l.material : ""}
            </text>
          </g>
        );
      })}
      <path d={`M0,${floor + 2}H${width - names}`} stroke="var(--ink)" strokeWidth={4} />
      <text x={0} y={height - 5} fontSize={13} fill="var(--g2)">
        tool · {+(section.length * 1e3).toFixed(0)} mm long, thickness drawn ×{Math.max(1, Math.round(up / across))}
      </text>
    </svg>
  );
}
