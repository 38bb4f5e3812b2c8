// The stack along a line, as the server cut it: drop-offs, pads, core ramps.
// Thickness is drawn larger than length by a stated factor. Wheel, pinch, drag
// and keys zoom and move it; courses that are thick enough then carry their names.
import { memo, useId, useMemo } from "react";
import type { Schemas } from "../../contract/types";
import { Hatches, hatchKey } from "../../ui/Hatch";
import { angle, told } from "../../ui/format";
import type { Layer } from "../../ui/layers";
import { hint, useZoom } from "../../ui/zoom";

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

const named = (l: Layer) => (l.kind === "ply" ? `${l.label} · ${angle(l.angleDeg)} ${l.material}` : l.label);
const halo = { fill: "var(--ink)", stroke: "var(--paper)", strokeWidth: 4, paintOrder: "stroke" } as const;

/** Where courses of which something is in sight carry their names: in the middle of what is seen of them. */
function inSight(
  section: Schemas["SectionView"],
  x: (v: number) => number,
  y: (v: number) => number,
  width: number,
  height: number,
) {
  return section.courses.flatMap((c, course) => {
    const [from, to] = [Math.max(0, x(c.at[0]![0]!)), Math.min(width, x(c.at.at(-1)![0]!))];
    if (to - from < 60) return [];
    const middle = (from + to) / 2;
    const k = c.at.findIndex((a) => x(a[0]!) >= middle);
    const [p, q] = [c.at[Math.max(0, k - 1)]!, c.at[k]!];
    const part = q[0]! > p[0]! ? (middle - x(p[0]!)) / (x(q[0]!) - x(p[0]!)) : 0;
    const [low, high] = [1, 2].map((f) => y(p[f]! + part * (q[f]! - p[f]!))) as [number, number];
    const size = Math.min(15, (low - high) * 0.8);
    if (size < 9 || high > height - 6 || low < 6) return [];
    return [{ course, at: { x: middle, y: (low + high) / 2 + size * 0.35, size } }];
  });
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
  const { view, on: moves } = useZoom(width, height);
  const still = view.x === 0 && view.y === 0 && view.zoom === 1;
  const [left, floor] = [
    width / 2 + (2 - width / 2) * view.zoom + view.x,
    height / 2 + (height / 2 - 24) * view.zoom + view.y,
  ];
  const across = ((width - names - 8) / section.length) * view.zoom;
  const up = ((height - 30) / Math.max(section.height, 1e-9)) * view.zoom;
  const x = (v: number) => left + v * across;
  const y = (v: number) => floor - v * up;
  const paths = useMemo(
    () =>
      section.courses.map((c) =>
        outlined(
          c.at,
          (v) => left + v * across,
          (v) => floor - v * up,
        ),
      ),
    [section, across, left, floor, up],
  );
  // Where hundreds of layers are thinner than a line, lines are thinner still.
  const fine = useMemo(() => layers.map((l) => Math.min(1, (l.thickness * up) / 4)), [layers, up]);
  const fills = useMemo(() => layers.map(hatchKey), [layers]);
  const last = new Map(section.courses.map((c) => [layers[c.layer]!.key, c.at.at(-1)!]));
  const shown = layers.filter((l) => last.has(l.key));
  const on = new Set(chosen);
  const order = shown.map((_, i) => i).sort((a, b) => Number(on.has(shown[a]!.key)) - Number(on.has(shown[b]!.key)));
  const line = Math.min(17, (floor - 4) / Math.max(1, shown.length));
  return (
    <svg
      {...moves}
      viewBox={`0 0 ${width} ${height}`}
      width="100%"
      role="application"
      aria-label={`${label}. Plus, minus, 0 and the wheel zoom, arrows move it.`}
      style={{ display: "block", touchAction: "none" }}
    >
      <title>{hint}</title>
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
      {!still &&
        inSight(section, x, y, width, height).map(({ course, at }) => (
          <text key={course} x={at.x} y={at.y} fontSize={at.size} fontWeight={700} textAnchor="middle" {...halo}>
            {named(layers[section.courses[course]!.layer]!)}
          </text>
        ))}
      {/* The chosen ones last, over the names beside them. */}
      {(still ? order : []).map((i) => {
        const l = shown[i]!;
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
              {...(bold ? halo : { fill: "var(--ink)" })}
            >
              {named(l)}
            </text>
          </g>
        );
      })}
      <path
        d={`M${still ? 0 : x(0)},${floor + 2}H${still ? width - names : x(section.length)}`}
        stroke="var(--ink)"
        strokeWidth={4}
      />
      {!still && <rect y={height - 20} width={width} height={20} fill="var(--paper)" />}
      <text x={0} y={height - 5} fontSize={13} fill="var(--g2)">
        {still ? `tool · ${told.size(section.length, 0)} long` : `zoomed ×${+view.zoom.toPrecision(2)}, 0 shows all`},
        thickness drawn ×{Math.max(1, Math.round(up / across))}
      </text>
    </svg>
  );
}
