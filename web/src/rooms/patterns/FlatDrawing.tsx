// A flat as it lies on the table, to scale: its outline with the true hatch, its size, where
// the roll's 0° is.
import { useId } from "react";
import { bounds, HatchPattern, path, scaleBar, type HatchOf, type Outline } from "../../ui/Hatch";
import { told } from "../../ui/format";
import { inSize, shownNumber, unitName } from "../../ui/units";

export function FlatDrawing({
  outline,
  hatch,
  label,
  width = 520,
  height = 280,
}: {
  /** m; x along the part. */
  outline: Outline;
  /** Its angle is the fibre's in the flat. */
  hatch: HatchOf;
  label: string;
  width?: number;
  height?: number;
}) {
  const id = useId().replaceAll(":", "");
  const b = bounds([outline]);
  const [wide, high] = [b.x1 - b.x0, b.y1 - b.y0];
  const scale = Math.min((width - 130) / wide, (height - 78) / high);
  const x = (v: number) => 10 + (v - b.x0) * scale;
  const y = (v: number) => 18 + (b.y1 - v) * scale;
  const bar = scaleBar(wide);
  const bottom = y(b.y0);
  const right = x(b.x1);
  const turn = (-hatch.angleDeg * Math.PI) / 180;
  const at = { x: width - 38, y: 40 };
  return (
    <svg viewBox={`0 0 ${width} ${Math.max(bottom + 58, 110)}`} width="100%" role="img" aria-label={label}>
      <defs>
        <HatchPattern id={id} of={hatch} />
      </defs>
      <path d={path(outline, x, y)} fill={`url(#${id})`} stroke="var(--ink)" strokeWidth={2.5} />
      <g stroke="var(--g1)" strokeWidth={1.2} fill="none">
        <path d={`M${x(b.x0)},${bottom + 12}H${right}M${x(b.x0)},${bottom + 7}v10M${right},${bottom + 7}v10`} />
        <path d={`M${right + 10},${y(b.y1)}V${bottom}M${right + 5},${y(b.y1)}h10M${right + 5},${bottom}h10`} />
      </g>
      <text x={(x(b.x0) + right) / 2} y={bottom + 29} fontSize={14} textAnchor="middle" fill="var(--ink)">
        {told.size(wide)}
      </text>
      <text
        x={right + 26}
        y={(y(b.y1) + bottom) / 2}
        fontSize={14}
        textAnchor="middle"
        fill="var(--ink)"
        transform={`rotate(-90 ${right + 26} ${(y(b.y1) + bottom) / 2})`}
      >
        {told.size(high)}
      </text>
      <g stroke="var(--blue)" strokeWidth={2.5} fill="none">
        <path
          d={`M${at.x - 22 * Math.cos(turn)},${at.y - 22 * Math.sin(turn)}L${at.x + 22 * Math.cos(turn)},${at.y + 22 * Math.sin(turn)}`}
        />
        <path
          d="M-9,-5L0,0L-9,5"
          transform={`translate(${at.x + 22 * Math.cos(turn)} ${at.y + 22 * Math.sin(turn)}) rotate(${(turn * 180) / Math.PI})`}
        />
      </g>
      <text x={width - 38} y={82} fontSize={13} textAnchor="middle" fill="var(--ink)">
        0° roll
      </text>
      <path d={`M${x(b.x0)},${bottom + 48}h${bar * scale}`} stroke="var(--ink)" strokeWidth={3} />
      <text x={x(b.x0) + bar * scale + 8} y={bottom + 53} fontSize={13} fill="var(--ink)">
        {shownNumber(inSize(bar))} {unitName("size")}
      </text>
    </svg>
  );
}
