// The stack along a line, as the server cut it: drop-offs, pads, core ramps.
// Thickness is drawn larger than length by a stated factor.
import { useId } from "react";
import type { Schemas } from "../../app/api";
import { Hatches, hatchKey } from "../../ui/Hatch";
import { angle } from "../../ui/format";
import type { Layer } from "../../ui/layers";

export function SectionView({
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
  const fills = new Map(layers.map((l) => [l.key, hatchKey(l)]));
  const last = new Map(section.pieces.map((p) => [p.key, p]));
  const shown = layers.filter((l) => last.has(l.key));
  const line = Math.min(17, (floor - 4) / Math.max(1, shown.length));
  return (
    <svg viewBox={`0 0 ${width} ${height}`} width="100%" role="img" aria-label={label}>
      <defs>
        <Hatches prefix={id} of={layers} />
      </defs>
      {section.pieces.map((p, k) => {
        const on = chosen.includes(p.key);
        return (
          // The table and its keys choose as well.

          <path
            key={k}
            onClick={() => pick?.(p.key)}
            d={`M${x(p.from)},${y(p.low[0]!)}L${x(p.to)},${y(p.low[1]!)}L${x(p.to)},${y(p.high[1]!)}L${x(p.from)},${y(p.high[0]!)}Z`}
            fill={`url(#${id}${fills.get(p.key)})`}
            stroke={found.has(p.key) ? "var(--brick)" : "var(--ink)"}
            strokeWidth={on ? 3.5 : found.has(p.key) ? 2.2 : 1}
          />
        );
      })}
      {shown.map((l, i) => {
        const end = last.get(l.key)!;
        const ty = floor - (i + 0.5) * ((floor - 4) / shown.length);
        const on = chosen.includes(l.key);
        if (line < 9 && !on) return null;
        return (
          <g key={l.key}>
            <path
              d={`M${x(end.to)},${y((end.low[1]! + end.high[1]!) / 2)}L${width - names + 4},${ty}`}
              stroke="var(--g3)"
              strokeWidth={0.8}
            />
            <text
              x={width - names + 8}
              y={ty + 4.5}
              fontSize={on ? 14 : Math.min(13, Math.max(10, line))}
              fontWeight={on ? 700 : 400}
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
