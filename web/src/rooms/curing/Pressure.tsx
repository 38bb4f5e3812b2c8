// The pressure over the time of a cure, under the curves: with the time in which it may go on, and what a core bears.
import { told, spell } from "../../ui/format";
import { figure, unitName } from "../../ui/units";
import { frame, type Forecast, type Plan } from "./useForecast";

const H = 92;
const top = 8;
const floor = 12;

export function Pressure({ f, limits, long }: { f: Forecast; limits: Plan["limits"]; long: number }) {
  const core = limits.edgePressure || limits.maxPressure || 0;
  const most = Math.max(core, ...f.points.map((p) => Math.max(p.pressure, p.vacuum, p.asks)));
  if (most <= 0) return null;
  const { W, left, right } = frame;
  const x = (t: number) => left + (t / long) * (W - left - right);
  const y = (p: number) => top + (1 - Math.max(0, p) / (most * 1.1)) * (H - top - floor);
  const line = (of: (p: Forecast["points"][number]) => number) =>
    f.points.map((p, k) => `${k === 0 ? "M" : "L"}${x(p.t).toFixed(1)},${y(of(p)).toFixed(1)}`).join("");
  const window = f.from !== undefined && f.to !== undefined && f.to > f.from;
  return (
    <svg
      viewBox={`0 0 ${W} ${H}`}
      style={{ width: "100%", display: "block" }}
      role="img"
      aria-label={`Pressure up to ${told.pressure(Math.max(...f.points.map((p) => p.pressure)))}${window ? `, may go on from ${spell(f.from!)} to ${spell(f.to!)}` : ""}${core ? `, the core bears ${told.pressure(core)}` : ""}`}
      fontSize={13}
      fill="var(--ink)"
    >
      {window && (
        <rect x={x(f.from!)} width={x(f.to!) - x(f.from!)} y={top} height={H - top - floor} fill="var(--wash)">
          <title>{`Pressure may go on: ${spell(f.from!)} to ${spell(f.to!)}`}</title>
        </rect>
      )}
      {window && (
        <path
          d={`M${x(f.from!)},${top}V${H - floor}M${x(f.to!)},${top}V${H - floor}`}
          stroke="var(--blue)"
          strokeWidth={1.5}
        />
      )}
      <line x1={left} x2={W - right} y1={H - floor} y2={H - floor} stroke="var(--g3)" />
      {[0, most].map((p) => (
        <text key={p} x={left - 6} y={y(p) + 4} textAnchor="end" fill="var(--g1)">
          {figure("pressure", p, 0)}
        </text>
      ))}
      <text x={W - right + 6} y={top + 10} fill="var(--g1)">
        {unitName("pressure")}
      </text>
      {core > 0 && (
        <>
          <line
            x1={left}
            x2={W - right}
            y1={y(core)}
            y2={y(core)}
            stroke="var(--brick)"
            strokeWidth={2}
            strokeDasharray="10 4"
          />
          <text x={W - right - 4} y={y(core) - 4} textAnchor="end" fontWeight={700}>
            the core bears {told.pressure(core)}
          </text>
        </>
      )}
      {f.points.some((p) => p.asks > 0) && (
        <path d={line((p) => p.asks)} fill="none" stroke="var(--green)" strokeWidth={1.8} strokeDasharray="2 3" />
      )}
      <path d={line((p) => p.vacuum)} fill="none" stroke="var(--g2)" strokeWidth={1.4} strokeDasharray="6 4" />
      <path d={line((p) => p.pressure)} fill="none" stroke="var(--blue)" strokeWidth={2.6} />
    </svg>
  );
}
