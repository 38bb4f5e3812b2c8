// A draped ply on its tool, drawn from one side: its net, how much it shears as the density of
// the hatch, where it locks, and the place that somebody points at.
import { useId, useMemo, type KeyboardEvent } from "react";
import { bounds, scaleBar } from "../../ui/Hatch";
import { inSize, plain, shownNumber, unitName } from "../../ui/units";
import {
  arrows,
  first,
  nearest,
  nodeKey,
  project,
  threads,
  threadStep,
  walk,
  type Cells,
  type Node,
  type Piece,
  type View,
} from "./net";

/** Hatches of shear: none, wide, close, and crossed in the colour of what stops. */
export function ShearHatches({ id }: { id: string }) {
  return (
    <defs>
      {[0, 9, 5].map(
        (gap, k) =>
          gap > 0 && (
            <pattern
              key={k}
              id={`${id}${k}`}
              patternUnits="userSpaceOnUse"
              width={gap}
              height={gap}
              patternTransform="rotate(35)"
            >
              <path d={`M0,0H${gap}`} stroke="var(--g1)" strokeWidth={1} />
            </pattern>
          ),
      )}
      <pattern id={`${id}3`} patternUnits="userSpaceOnUse" width={5} height={5} patternTransform="rotate(35)">
        <path d="M0,0H5M0,0V5" stroke="var(--brick)" strokeWidth={1.3} />
      </pattern>
    </defs>
  );
}

export const shearFill = (id: string, step: number) => (step === 0 ? "none" : `url(#${id}${step})`);

export function NetView({
  pieces,
  grid,
  edge,
  lines,
  view,
  scale: shear,
  lock,
  picked,
  pick,
  label,
  width = 560,
  height = 420,
}: {
  pieces: Piece[];
  grid: Cells;
  edge: number[][];
  /** Sections of the surface. */
  lines: number[][][];
  view: View;
  /** Shear at which each step begins, degrees. */
  scale: number[];
  lock: number;
  picked: Node | undefined;
  pick: (n: Node) => void;
  label: string;
  width?: number;
  height?: number;
}) {
  const id = useId().replaceAll(":", "");
  const flat = useMemo(() => edge.map((p) => project(view, p)), [edge, view]);
  const b = bounds([flat.length > 0 ? flat : pieces.flatMap((d) => d.boundary.map((p) => project(view, p)))]);
  const scale = Math.min((width - 110) / (b.x1 - b.x0), (height - 60) / Math.max(b.y1 - b.y0, 1e-6));
  const x = (v: number) => 96 + (v - b.x0) * scale;
  const y = (v: number) => 16 + (b.y1 - v) * scale;
  const line = (places: number[][]) =>
    places
      .map((p, k) => {
        const [u, v] = project(view, p);
        return `${k ? "L" : "M"}${x(u).toFixed(1)},${y(v).toFixed(1)}`;
      })
      .join("");
  const drawn = useMemo(() => threads(grid, threadStep(grid)), [grid]);
  const bar = scaleBar(b.x1 - b.x0);
  const bottom = y(b.y0) + 30;
  const at = picked && project(view, picked.at);
  const keys = (e: KeyboardEvent) => {
    const by = arrows[e.key];
    if (!by) return;
    e.preventDefault();
    const from = picked ?? first(grid);
    const next = from && walk(grid, from, ...by);
    if (next) pick(next);
  };
  return (
    <svg
      viewBox={`0 0 ${width} ${Math.max(bottom + 10, 190)}`}
      width="100%"
      role="application"
      tabIndex={0}
      aria-label={`${label}. Arrow keys walk its threads.`}
      onKeyDown={keys}
      onClick={(e) => {
        const box = e.currentTarget.getBoundingClientRect();
        const k = width / box.width;
        const to: [number, number] = [
          ((e.clientX - box.left) * k - 96) / scale + b.x0,
          b.y1 - ((e.clientY - box.top) * k - 16) / scale,
        ];
        const n = nearest(grid.all, to, (m) => project(view, m.at));
        if (n) pick(n);
      }}
      style={{ cursor: "crosshair" }}
    >
      <ShearHatches id={id} />
      {lines.map((l, k) => (
        <path key={k} d={line(l)} fill="none" stroke="var(--g3)" strokeWidth={0.8} strokeDasharray="6 4" />
      ))}
      {flat.length > 0 && <path d={`${line(edge)}Z`} fill="none" stroke="var(--g3)" strokeWidth={1.5} />}
      {grid.by.map(
        (all, k) =>
          all.length > 0 && (
            <path
              key={k}
              d={all.map((c) => `${line(c.map((n) => n.at))}Z`).join("")}
              fill={shearFill(id, k)}
              stroke="none"
            />
          ),
      )}
      {drawn.map((run, k) => (
        <path key={k} d={line(run.map((n) => n.at))} fill="none" stroke="var(--ink)" strokeWidth={0.7} />
      ))}
      {pieces.map((d, k) => (
        <path key={k} d={`${line(d.boundary)}Z`} fill="none" stroke="var(--ink)" strokeWidth={2.5} />
      ))}
      {pieces.flatMap((d) =>
        d.lips.map((l) => (
          <path
            key={l.line.join()}
            d={line(l.line)}
            fill="none"
            stroke="var(--blue)"
            strokeWidth={3}
            strokeDasharray={l.width < 0 ? "2 4" : "8 4"}
          />
        )),
      )}
      {pieces.map((d, k) => (d.strip ? null : <Warp key={k} piece={k} d={d} grid={grid} view={view} x={x} y={y} />))}
      {pieces
        .flatMap((d) => d.locks)
        .map((r) => {
          const [u, v] = project(view, r.at);
          return (
            <g key={r.at.join()} fontSize={13} fontWeight={700}>
              <path d={`M${x(u) - 6},${y(v) - 6}l12,12m0,-12l-12,12`} stroke="var(--brick)" strokeWidth={2.5} />
              <text
                x={x(u)}
                y={y(v) - 10}
                fill="var(--brick)"
                stroke="var(--paper)"
                strokeWidth={4}
                paintOrder="stroke"
                textAnchor="middle"
              >
                locks, {plain(r.worst, 0)}°
              </text>
            </g>
          );
        })}
      {at && <circle cx={x(at[0])} cy={y(at[1])} r={8} fill="none" stroke="var(--blue)" strokeWidth={3} />}
      <g fontSize={12.5} fill="var(--ink)">
        <ShearScale id={id} scale={shear} lock={lock} />
        <path d={`M96,${bottom - 8}h${bar * scale}`} stroke="var(--ink)" strokeWidth={3} />
        <text x={104 + bar * scale} y={bottom - 3}>
          {shownNumber(inSize(bar))} {unitName("size")}
        </text>
      </g>
    </svg>
  );
}

/** Where a piece is laid on first, and which way its warp goes. */
function Warp({
  piece,
  d,
  grid,
  view,
  x,
  y,
}: {
  piece: number;
  d: Piece;
  grid: Cells;
  view: View;
  x: (v: number) => number;
  y: (v: number) => number;
}) {
  const start = project(view, d.start);
  const to = (i: number) => grid.nodes.get(nodeKey(piece, 0, i, 0));
  const warp = to(1) ?? to(-1);
  const way = warp ? project(view, warp.at) : start;
  const turn = Math.atan2(way[1] - start[1], way[0] - start[0]) + (warp?.i === -1 ? Math.PI : 0);
  const end = (far: number): [number, number] => [
    x(start[0]) + far * Math.cos(turn),
    y(start[1]) - far * Math.sin(turn),
  ];
  return (
    <>
      <g stroke="var(--blue)" strokeWidth={2.5} fill="none">
        <circle cx={x(start[0])} cy={y(start[1])} r={6} />
        <path d={`M${x(start[0])},${y(start[1])}L${end(44).join(",")}`} />
      </g>
      <text
        x={end(54)[0]}
        y={end(54)[1]}
        fontSize={14}
        fontWeight={700}
        fill="var(--blue)"
        stroke="var(--paper)"
        strokeWidth={4}
        paintOrder="stroke"
        textAnchor="middle"
      >
        warp
      </text>
    </>
  );
}

/** What the hatches of shear mean. */
export function ShearScale({ id, scale, lock }: { id: string; scale: number[]; lock: number }) {
  return (
    <>
      <text x={4} y={14}>
        shear
      </text>
      {scale.map((from, k) => (
        <g key={k} transform={`translate(4 ${22 + k * 36})`}>
          <rect
            width={26}
            height={22}
            fill={shearFill(id, k)}
            stroke={k === scale.length - 1 ? "var(--brick)" : "var(--ink)"}
          />
          <text x={32} y={16}>
            {plain(from, 0)}°{k === scale.length - 1 ? (lock > 0 ? " locks" : " +") : ""}
          </text>
        </g>
      ))}
    </>
  );
}
