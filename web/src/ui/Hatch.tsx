// The true hatch: lines at the ply's real fibre angle, their pitch growing
// with its thickness; a weave shows both directions; the face that looks up is
// drawn heavy, a face that looks down light. Film adhesive is dotted, core drawn
// in cells.
import { useId } from "react";
import type { Schemas } from "../contract/types";
import { fromSize, inSize, shownNumber, unitName } from "./units";

export type HatchOf = { angleDeg: number; woven: boolean; thickness: number; faceUp: boolean; kind?: string };

/** A pattern to fill with; use it as url(#id). */
export function HatchPattern({ id, of, scale = 1 }: { id: string; of: HatchOf; scale?: number }) {
  const pitch = (4 + of.thickness * 1e3 * 22) * scale;
  const weight = (of.faceUp ? 1.5 : 0.8) * scale;
  if (of.kind === "film adhesive" || of.kind === "peel ply")
    return (
      <pattern id={id} patternUnits="userSpaceOnUse" width={7 * scale} height={7 * scale}>
        <circle cx={2 * scale} cy={2 * scale} r={(of.kind === "peel ply" ? 0.7 : 1.4) * scale} fill="var(--g1)" />
      </pattern>
    );
  if (of.kind === "core")
    return (
      <pattern id={id} patternUnits="userSpaceOnUse" width={18 * scale} height={10.4 * scale}>
        <path
          d="M0,5.2H3L6,0H12L15,5.2H18M3,5.2L6,10.4H12L15,5.2"
          transform={`scale(${scale})`}
          fill="none"
          stroke="var(--g1)"
          strokeWidth={0.9}
        />
      </pattern>
    );
  return (
    <pattern
      id={id}
      patternUnits="userSpaceOnUse"
      width={pitch}
      height={pitch}
      patternTransform={`rotate(${-of.angleDeg})`}
    >
      <line x1={0} y1={pitch / 2} x2={pitch} y2={pitch / 2} stroke="var(--g1)" strokeWidth={weight} />
      {of.woven && (
        <line x1={pitch / 2} y1={0} x2={pitch / 2} y2={pitch} stroke="var(--g1)" strokeWidth={weight * 0.6} />
      )}
    </pattern>
  );
}

/** What makes two hatches the same. */
export const hatchKey = (of: HatchOf) =>
  [of.angleDeg, of.woven, of.thickness, of.faceUp, of.kind ?? ""].join("_").replace(/[^\w.-]/g, "");

/** One pattern for all layers that are hatched alike; use it as url(#prefix + hatchKey). */
export function Hatches({ prefix, of }: { prefix: string; of: HatchOf[] }) {
  const all = new Map(of.map((l) => [hatchKey(l), l]));
  return [...all].map(([key, l]) => <HatchPattern key={key} id={prefix + key} of={l} />);
}

export type Outline = Schemas["PlyView"]["outline"];

export const path = (outline: Outline, x: (v: number) => number, y: (v: number) => number) =>
  outline.map(([px, py], i) => `${i ? "L" : "M"}${x(px!).toFixed(2)},${y(py!).toFixed(2)}`).join("") + "Z";

export function bounds(outlines: Outline[]) {
  const xs = outlines.flatMap((o) => o.map((p) => p[0]!));
  const ys = outlines.flatMap((o) => o.map((p) => p[1]!));
  return { x0: Math.min(...xs), x1: Math.max(...xs), y0: Math.min(...ys), y1: Math.max(...ys) };
}

/** A round length for a scale bar, about a quarter of a width in m. */
export function scaleBar(width: number) {
  const want = inSize(width / 4);
  const base = 10 ** Math.floor(Math.log10(want));
  return fromSize([5, 2, 1].map((k) => k * base).find((v) => v <= want) ?? base);
}

/** The plan of a part to scale: its plies, one of them shown, from the datum. */
export function Plan({
  plies,
  shown,
  width,
  height,
  label,
}: {
  plies: Schemas["PlyView"][];
  shown?: number;
  width: number;
  height: number;
  label: string;
}) {
  const id = useId().replaceAll(":", "");
  if (plies.length === 0) return null;
  // The datum is in the picture, however far from it the part lies.
  const b = bounds([...plies.map((p) => p.outline), [[0, 0]]]);
  const pad = 34;
  const scale = Math.min((width - 2 * pad - 40) / (b.x1 - b.x0), (height - 2 * pad) / (b.y1 - b.y0));
  const x = (v: number) => pad + (v - b.x0) * scale;
  const y = (v: number) => height - pad - (v - b.y0) * scale;
  const bar = scaleBar(b.x1 - b.x0);
  // The largest first, so that what lies on it is seen.
  const drawn =
    shown === undefined ? [...plies].sort((p, q) => q.area - p.area) : plies.filter((p) => p.number !== shown);
  const on = plies.find((p) => p.number === shown);
  const seen = new Set<string>();
  const layers = drawn.filter((p) => {
    const key = JSON.stringify(p.outline);
    return !seen.has(key) && seen.add(key);
  });
  return (
    <svg viewBox={`0 0 ${width} ${height}`} width="100%" role="img" aria-label={label}>
      <defs>
        {plies.map((p) => (
          <HatchPattern key={p.number} id={`${id}${p.number}`} of={p} />
        ))}
      </defs>
      {layers.map((p) => (
        <g key={p.number}>
          {shown === undefined && <path d={path(p.outline, x, y)} fill="var(--paper)" />}
          <path
            d={path(p.outline, x, y)}
            fill={shown === undefined ? `url(#${id}${p.number})` : "none"}
            stroke={shown === undefined ? "var(--ink)" : "var(--g3)"}
            strokeWidth={2}
          />
        </g>
      ))}
      {on && (
        <>
          <path d={path(on.outline, x, y)} fill={`url(#${id}${on.number})`} stroke="var(--ink)" strokeWidth={3} />
          <Offset at={edges(on.outline)} x={x} y={y} />
        </>
      )}
      <g stroke="var(--blue)" strokeWidth={2} fill="none">
        <circle cx={x(0)} cy={y(0)} r={6} />
        <path d={`M${x(0) - 11},${y(0)}h22M${x(0)},${y(0) - 11}v22`} />
      </g>
      <text x={x(0) + 12} y={y(0) + 22} fontSize={15} fontWeight={700} fill="var(--blue)">
        datum
      </text>
      <path d={`M${width - 12 - bar * scale},${height - 16}h${bar * scale}`} stroke="var(--ink)" strokeWidth={3} />
      <text x={width - 20 - bar * scale} y={height - 11} fontSize={14} textAnchor="end" fill="var(--ink)">
        {shownNumber(inSize(bar))} {unitName("size")}
      </text>
      <g stroke="var(--ink)" strokeWidth={2} fill="none">
        <path d={`M${width - 44},${24}h32M${width - 12},24l-9,-5M${width - 12},24l-9,5`} />
      </g>
      <text x={width - 44} y={44} fontSize={15} fill="var(--ink)">
        0°
      </text>
    </svg>
  );
}

/**
 * Where an outline's left and lower edge lie from the datum, to the tenth of a
 * millimetre: what can be measured on the tool, whatever origin it was drawn from.
 */
export function edges(outline: Outline) {
  const b = bounds([outline]);
  const tenth = (m: number) => Math.round(m * 1e4) / 1e4 || 0;
  return { x: tenth(b.x0), y: tenth(b.y0) };
}

/** The edges of a ply from the datum: along and across, as on the plan and in the ply book. */
function Offset({ at, x, y }: { at: { x: number; y: number }; x: (v: number) => number; y: (v: number) => number }) {
  if (at.x === 0 && at.y === 0) return null;
  const [px, py] = [x(at.x), y(at.y)];
  return (
    <g>
      <path d={`M${x(0)},${y(0)}H${px}V${py}`} stroke="var(--blue)" strokeWidth={2} strokeDasharray="6 4" fill="none" />
      <path d={`M${px - 9},${py}h18M${px},${py - 9}v18`} stroke="var(--blue)" strokeWidth={3} />
      <g fontSize={22} fontWeight={700} fill="var(--blue)" stroke="var(--paper)" strokeWidth={5} paintOrder="stroke">
        {at.x !== 0 && (
          <text x={(x(0) + px) / 2} y={y(0) - 8} textAnchor="middle">
            x {placed(at.x)}
          </text>
        )}
        {at.y !== 0 && (
          <text x={px + 8} y={(y(0) + py) / 2 + 7}>
            y {placed(at.y)}
          </text>
        )}
      </g>
    </g>
  );
}

/** A place from the datum as it is written at the bench: mm, to the tenth where there is one. */
export const placed = (m: number) =>
  shownNumber(+inSize(m).toFixed(unitName("size") === "mm" ? 1 : 3)).replace("-", "−");
