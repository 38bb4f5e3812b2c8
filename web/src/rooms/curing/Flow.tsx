// How the resin flows over the time of a cure, under the curves: its viscosity where it is least and where it is most.
import { memo } from "react";
import { spell } from "../../ui/format";
import { plain } from "../../ui/units";
import { frame, type Forecast, type Plan } from "./useForecast";

const H = 96;
const top = 8;
const floor = 12;
const decades = 5;

const round = (v: number) => plain(v, v < 10 ? 1 : 0);

export const Flow = memo(FlowOf);

function FlowOf({ f, section, limits, long }: { f: Forecast; section: number; limits: Plan["limits"]; long: number }) {
  const known = f.points.flatMap((p) => {
    const { thin } = p.parts[section]!;
    return thin === undefined ? [] : [{ t: p.t, thin }];
  });
  const first = known[0];
  if (!first) return null;
  const least = known.reduce((a, b) => (b.thin < a.thin ? b : a), first);
  // From the decade that it is thinnest in, five up: what is thicker than that no longer flows.
  const low = Math.floor(Math.log10(Math.min(least.thin, limits.thin || Infinity)));
  const { W, left, right } = frame;
  const x = (t: number) => left + (t / long) * (W - left - right);
  const y = (v: number) => top + (1 - Math.min(1, (Math.log10(v) - low) / decades)) * (H - top - floor);
  const line = (of: (p: Forecast["points"][number]["parts"][number]) => number | undefined) => {
    let d = "";
    for (const p of f.points) {
      const v = of(p.parts[section]!);
      if (v === undefined || v > 10 ** (low + decades)) {
        if (d === "") continue; // thicker than what is shown yet
        d += `L${x(p.t).toFixed(1)},${y(v ?? Infinity).toFixed(1)}`;
        break; // it does not come back
      }
      d += `${d === "" ? "M" : "L"}${x(p.t).toFixed(1)},${y(v).toFixed(1)}`;
    }
    return d;
  };
  return (
    <svg
      viewBox={`0 0 ${W} ${H}`}
      style={{ width: "100%", display: "block" }}
      role="img"
      aria-label={`Viscosity: min. ${round(least.thin)} Pa s, after ${spell(least.t)}`}
      fontSize={13}
      fill="var(--ink)"
    >
      {Array.from({ length: decades + 1 }, (_, k) => low + k).map((e) => (
        <g key={e}>
          <line x1={left} x2={W - right} y1={y(10 ** e)} y2={y(10 ** e)} stroke="var(--g4)" />
          {(e - low) % 2 === 0 && (
            <text x={left - 6} y={y(10 ** e) + 4} textAnchor="end" fill="var(--g1)">
              {e < 0 ? plain(10 ** e, -e) : e < 4 ? plain(10 ** e, 0) : `${plain(10 ** (e - 3), 0)} k`}
            </text>
          )}
        </g>
      ))}
      <text x={W - right + 6} y={top + 10} fill="var(--g1)">
        Pa s
      </text>
      {(limits.thin ?? 0) > 0 && (
        <>
          <line
            x1={left}
            x2={W - right}
            y1={y(limits.thin!)}
            y2={y(limits.thin!)}
            stroke="var(--brick)"
            strokeWidth={2}
            strokeDasharray="10 4"
          />
          <text x={W - right - 4} y={y(limits.thin!) - 4} textAnchor="end" fontWeight={700}>
            flows below {round(limits.thin!)} Pa s
          </text>
        </>
      )}
      <path d={line((p) => p.thin)} fill="none" stroke="var(--g1)" strokeWidth={1.6} strokeDasharray="2 3" />
      <path d={line((p) => p.thick)} fill="none" stroke="var(--ink)" strokeWidth={2.4} />
    </svg>
  );
}
