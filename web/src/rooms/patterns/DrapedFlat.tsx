// A draped ply flat on the table: its outline with its weave, notches, where it shears most, and
// the place that somebody points at on the tool.
import { useId } from "react";
import type { Schemas } from "../../contract/types";
import { bounds, HatchPattern, path, scaleBar, type HatchOf } from "../../ui/Hatch";
import { told } from "../../ui/format";
import { inSize, shownNumber, unitName } from "../../ui/units";
import { nearest, type Cells, type Node } from "./net";
import { ShearHatches, shearFill } from "./NetView";

export function DrapedFlat({
  draped,
  piece,
  grid,
  hatch,
  picked,
  pick,
  label,
  width = 540,
  height = 400,
}: {
  draped: Schemas["Draped"];
  /** Which of the ply's pieces it is. */
  piece: number;
  grid: Cells;
  hatch: HatchOf;
  picked: Node | undefined;
  pick: (n: Node) => void;
  label: string;
  width?: number;
  height?: number;
}) {
  const id = useId().replaceAll(":", "");
  const b = bounds([draped.flat]);
  const scale = Math.min((width - 90) / (b.x1 - b.x0), (height - 60) / (b.y1 - b.y0));
  const x = (v: number) => 14 + (v - b.x0) * scale;
  const y = (v: number) => 16 + (b.y1 - v) * scale;
  const bottom = y(b.y0);
  const bar = scaleBar(b.x1 - b.x0);
  const on = (n: Node): [number, number] => [n.flat?.[0] ?? n.i * draped.cell, n.flat?.[1] ?? n.j * draped.cell];
  const locked = (grid.by.at(-1) ?? []).filter((c) => c[0]?.piece === piece);
  return (
    <svg
      viewBox={`0 0 ${width} ${bottom + 44}`}
      width="100%"
      role="img"
      aria-label={label}
      onClick={(e) => {
        const box = e.currentTarget.getBoundingClientRect();
        const k = width / box.width;
        const n = nearest(
          grid.all.filter((m) => m.piece === piece),
          [((e.clientX - box.left) * k - 14) / scale + b.x0, b.y1 - ((e.clientY - box.top) * k - 16) / scale],
          on,
        );
        if (n) pick(n);
      }}
      style={{ cursor: "crosshair" }}
    >
      <ShearHatches id={id} />
      <defs>
        <HatchPattern id={`${id}w`} of={hatch} />
      </defs>
      <path d={path(draped.flat, x, y)} fill={`url(#${id}w)`} stroke="var(--ink)" strokeWidth={2.5} />
      {locked.length > 0 && <path d={locked.map((c) => path(c.map(on), x, y)).join("")} fill={shearFill(id, 3)} />}
      {draped.notches.map((n) => {
        const [px, py] = [x(n.at[0]!), y(n.at[1]!)];
        const away = Math.atan2(n.at[1]!, n.at[0]!);
        return (
          <g key={n.at.join()} transform={`translate(${px} ${py}) rotate(${(-away * 180) / Math.PI})`}>
            <path d="M10,-6L0,0L10,6" fill="none" stroke="var(--ink)" strokeWidth={2} />
          </g>
        );
      })}
      {!draped.strip && (
        <path d={`M${x(0) - 9},${y(0)}h18M${x(0)},${y(0) - 9}v18`} stroke="var(--blue)" strokeWidth={2.5} />
      )}
      {picked?.piece === piece && (
        <circle cx={x(on(picked)[0])} cy={y(on(picked)[1])} r={8} fill="none" stroke="var(--blue)" strokeWidth={3} />
      )}
      <g stroke="var(--blue)" strokeWidth={2.5} fill="none">
        <path d={`M${width - 62},22h44m-9,-5l9,5l-9,5`} />
      </g>
      <ScaleBar width={width} bottom={bottom} bar={bar} scale={scale} b={b} />
    </svg>
  );
}

/** How long a length is in the drawing. */
function ScaleBar({
  width,
  bottom,
  bar,
  scale,
  b,
}: {
  width: number;
  bottom: number;
  bar: number;
  scale: number;
  b: { x0: number; x1: number; y0: number; y1: number };
}) {
  return (
    <g fontSize={13} fill="var(--ink)">
      <text x={width - 40} y={44} textAnchor="middle">
        0° roll
      </text>
      <path d={`M14,${bottom + 24}h${bar * scale}`} stroke="var(--ink)" strokeWidth={3} />
      <text x={22 + bar * scale} y={bottom + 29}>
        {shownNumber(inSize(bar))} {unitName("size")}; {told.sides(b.x1 - b.x0, b.y1 - b.y0)} over all
      </text>
    </g>
  );
}
