// The life of a piece of material as a line: out-time over the time it has been
// here. Heavy where it was out, thin where it lay cold; the plan hatched beyond
// now; the end of its life as a rule across.
import type { Schemas } from "../contract/types";
import { date, moment, spell } from "./format";

type Props = {
  life: Schemas["LifePoint"][];
  fuse: Schemas["OutTimeStatus"];
  warmths: Schemas["FailureView"][];
  label: string;
};

const wide = 640;
const high = 190;
const left = 54;
const base = high - 26;
const top = 14;

export function LifeLine({ life, fuse, warmths, label }: Props) {
  const first = life[0];
  const last = life.at(-1);
  if (!first || !last || !fuse.ages) return null;
  const from = new Date(first.at).getTime();
  const now = new Date(last.at).getTime();
  const end = now + Math.max(fuse.planned * 1e3, (now - from) * 0.06, 3600e3);
  const most = Math.max(fuse.life * 1.12, last.spent + fuse.planned);
  const x = (t: number) => left + ((t - from) / (end - from)) * (wide - left - 10);
  const y = (s: number) => base - (s / most) * (base - top);
  const at = (p: Schemas["LifePoint"]) => new Date(p.at).getTime();
  const planned = fuse.planned > 0 ? { x: x(now + fuse.planned * 1e3), y: y(last.spent + fuse.planned) } : null;
  const hours = [0, 0.25, 0.5, 0.75, 1].map((f) => f * fuse.life);
  return (
    <svg
      viewBox={`0 0 ${wide} ${high}`}
      width="100%"
      role="img"
      aria-label={`${label}. ${spell(fuse.spent)} spent of ${spell(fuse.life)}.`}
      style={{ display: "block", maxHeight: 240 }}
    >
      {warmths.map((w) => {
        const a = Math.max(from, new Date(w.fromAt).getTime());
        const b = w.toAt ? new Date(w.toAt).getTime() : now;
        return (
          <rect key={w.id} x={x(a)} y={top} width={Math.max(2, x(b) - x(a))} height={base - top} fill="var(--wash)" />
        );
      })}
      {hours.map((h) => (
        <g key={h}>
          <path
            d={`M${left} ${y(h)}H${wide - 10}`}
            stroke={h === fuse.life ? "var(--brick)" : "var(--g4)"}
            strokeWidth={h === fuse.life ? 2 : 1}
          />
          <text x={left - 6} y={y(h) + 4} fontSize="12" textAnchor="end" fill="var(--g1)">
            {Math.round(h / 3600)} h
          </text>
        </g>
      ))}
      <text x={left + 6} y={y(fuse.life) - 5} fontSize="12" fill="var(--brick)" fontWeight="700">
        end of out-life
      </text>
      {life.slice(1).map((p, i) => {
        const before = life[i]!;
        const rising = p.spent > before.spent;
        return (
          <path
            key={p.at + i}
            d={`M${x(at(before))} ${y(before.spent)}L${x(at(p))} ${y(p.spent)}`}
            stroke="var(--ink)"
            strokeWidth={rising ? 4 : 1.2}
            strokeLinecap="butt"
          />
        );
      })}
      {planned && (
        <path
          d={`M${x(now)} ${y(last.spent)}L${planned.x} ${planned.y}`}
          stroke="var(--g1)"
          strokeWidth="3"
          strokeDasharray="3 4"
        />
      )}
      <path d={`M${x(now)} ${top}V${base}`} stroke="var(--ink)" strokeWidth="1" strokeDasharray="2 3" />
      <path d={`M${left} ${base}H${wide - 10}`} stroke="var(--ink)" />
      {x(now) - left > 110 && (
        <text x={left} y={high - 8} fontSize="12" fill="var(--g1)">
          {date(first.at)}
        </text>
      )}
      <NowLabel x={x} now={now} />
      {planned && fuse.planned > 0 && planned.x - x(now) > 90 && (
        <text x={wide - 10} y={high - 8} fontSize="12" textAnchor="end" fill="var(--g1)">
          cure {moment(new Date(now + fuse.planned * 1e3))}
        </text>
      )}
    </svg>
  );
}

/** Where now is. */
function NowLabel({ x, now }: { x: (t: number) => number; now: number }) {
  return (
    <text
      x={Math.max(left + 14, Math.min(x(now), wide - 60))}
      y={high - 8}
      fontSize="12"
      textAnchor="middle"
      fill="var(--ink)"
      fontWeight="700"
    >
      now
    </text>
  );
}
