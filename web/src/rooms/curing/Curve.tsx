// The curves of a cure as it is simulated. The set point is a band with handles: dragged, or moved with the arrow keys.
import { memo, useRef, useState, type KeyboardEvent, type PointerEvent, type SVGProps } from "react";
import styled from "styled-components";
import { plain, unitName, value, wholeDegrees } from "../../ui/units";
import { percent, spell, told } from "../../ui/format";
import { dashes } from "./CompareRecipes";
import { ends, frame, withSegment, type Forecast, type Plan } from "./useForecast";

const Handle = styled.rect`
  fill: var(--paper);
  stroke: var(--blue);
  stroke-width: 2.5;
  cursor: move;
  &:focus-visible {
    outline: 3px solid var(--blue);
    outline-offset: 2px;
  }
`;

const { W, left, right } = frame;
const H = 330;
const top = 14;
const bottom = 34;

type Other = { name: string; f: Forecast };

type Props = {
  f: Forecast;
  plan: Plan;
  /** The section whose curves are drawn. */
  section: number;
  /** Other cures that are laid over it, by name. */
  others?: Other[];
  /** A moment that is looked at, s. */
  now?: number;
  change?: ((plan: Plan) => void) | undefined;
};

const alone: Other[] = [];

const label: Record<string, string> = {
  "gel begins": "gel begins",
  gelled: "gelled",
  thinnest: "thinnest",
  hottest: "hottest",
  "dwell begins": "dwell",
  "may be opened": "may be opened",
  "pressure on": "pressure on",
  "bag vented": "bag vented",
};

/** Where a degree of cure is drawn, and a time and a temperature between what is shown of them. */
const cureAt = (v: number) => top + (1 - v) * (H - top - bottom);
const timeAt = (long: number) => (t: number) => left + (t / long) * (W - left - right);
const kelvinAt = (low: number, high: number) => (k: number) => top + ((high - k) / (high - low)) * (H - top - bottom);

type Moment = Forecast["points"][number];
type Of = (p: Moment) => number | undefined;
type LinesProps = { f: Forecast; section: number; others: Other[]; long: number; low: number; high: number };

/** The curves themselves: they stay as they are while only the plan has moved. */
const Lines = memo(function LinesOf({ f, section, others, long, low, high }: LinesProps) {
  const x = timeAt(long);
  const y = kelvinAt(low, high);
  const part = (p: Moment) => p.parts[section]!;
  const line = (g: Forecast, of: Of, to = y) => {
    let d = "";
    let pen = false;
    for (const p of g.points) {
      const v = of(p);
      if (v === undefined) {
        pen = false;
        continue;
      }
      d += `${pen ? "L" : "M"}${x(p.t).toFixed(1)},${to(v).toFixed(1)}`;
      pen = true;
    }
    return d;
  };
  // What is drawn last lies on top.
  const looks: (SVGProps<SVGPathElement> & { of: Of; place?: (v: number) => number })[] = [
    { of: (p) => p.air, stroke: "var(--g2)", strokeWidth: 1 },
    { of: (p) => part(p).glass, stroke: "var(--green)", strokeWidth: 1.8, strokeDasharray: "9 3 2 3" },
    { of: (p) => part(p).least, place: cureAt, stroke: "var(--blue)", strokeWidth: 2, strokeDasharray: "7 4" },
    { of: (p) => part(p).tool, stroke: "var(--ochre)", strokeWidth: 1.8, strokeDasharray: "12 3" },
    {
      of: (p) => part(p).middle,
      stroke: "var(--ink)",
      strokeWidth: 1.4,
      strokeDasharray: "1 4",
      strokeLinecap: "round",
    },
    { of: (p) => part(p).lag, stroke: "var(--ink)", strokeWidth: 3 },
    { of: (p) => part(p).lead, stroke: "var(--brick)", strokeWidth: 2, strokeDasharray: "2 3" },
  ];
  return (
    <g clipPath="url(#plot)">
      <path d={line(f, (p) => p.setPoint)} fill="none" stroke="var(--g3)" strokeOpacity={0.55} strokeWidth={11} />
      {others.map((o, k) => (
        <path
          key={o.name}
          d={line(o.f, (p) => p.parts[0]?.middle)}
          fill="none"
          stroke="var(--g1)"
          strokeWidth={1.6}
          strokeDasharray={dashes[k % 3]}
        >
          <title>{o.name}</title>
        </path>
      ))}
      {looks.map(({ of, place = y, ...look }, k) => (
        <path key={k} d={line(f, of, place)} fill="none" {...look} />
      ))}
    </g>
  );
});

export function Curve({ f, plan, section, others = alone, now: moment, change }: Props) {
  const [frozen, setFrozen] = useState<{ long: number; low: number; high: number } | null>(null);
  const drag = useRef<{ x: number; y: number; plan: Plan; at: ReturnType<typeof ends> } | null>(null);
  const all = [f, ...others.map((o) => o.f)];
  const temps = all.flatMap((g) =>
    g.points.flatMap((p) => [p.setPoint, p.air, ...p.parts.map((q) => q.lead), ...p.parts.map((q) => q.lag)]),
  );
  const now = {
    long: Math.max(...all.map((g) => g.duration), 600),
    low: Math.min(...temps) - 8,
    high: Math.max(...temps) + 12,
  };
  const { long, low, high } = frozen ?? now;
  const x = timeAt(long);
  const y = kelvinAt(low, high);
  const every = [600, 1800, 3600, 7200, 14400, 43200].find((s) => long / s <= 12) ?? 86400;
  const ticks = Array.from({ length: Math.floor(long / every) + 1 }, (_, k) => k * every);
  const span = value("temperature", high) - value("temperature", low);
  const step = [10, 20, 40, 50, 100].find((s) => span / s <= 6) ?? 200;
  const first = Math.ceil(value("temperature", low) / step) * step;
  const grid = Array.from(
    { length: Math.floor((value("temperature", high) - first) / step) + 1 },
    (_, k) => first + k * step,
  );
  const kelvin = (shown: number) => low + ((shown - value("temperature", low)) / span) * (high - low);
  const marks = f.events.filter((e) => e.section === section || e.section < 0);
  const part = (p: Moment) => p.parts[section]!;
  const at = ends(f, plan);
  // Each word takes the first place near its mark that nothing else has.
  const taken = at.flatMap((e, k) => {
    const cy = y(plan.recipe.segments[k]!.target);
    return [e.ramp, e.end].map((t) => ({ x: x(t) - 10, y: cy - 10, w: 20, h: 20 }));
  });
  const placed = marks.map((e) => {
    const p = f.points.reduce((a, b) => (Math.abs(b.t - e.t) < Math.abs(a.t - e.t) ? b : a));
    const cx = x(e.t);
    const cy = y(e.kind === "hottest" || e.kind === "gel begins" ? part(p).lead : part(p).lag);
    const more =
      e.kind === "hottest"
        ? ` ${told.degrees(e.value)}`
        : e.kind === "thinnest"
          ? ` ${plain(e.value, e.value < 10 ? 1 : 0)} Pa s`
          : "";
    const words = (label[e.kind] ?? e.kind) + more;
    const w = words.length * 7.2;
    const from = Math.min(cx + 8, W - right - w);
    const spots = [-10, 18, -27, 35, -44, 52, -61, 69, 86].flatMap((dy) => [
      { x: from, y: cy + dy },
      { x: Math.max(left, cx - 8 - w), y: cy + dy },
    ]);
    const free = (q: { x: number; y: number }) =>
      q.y > 14 &&
      q.y < H - bottom - 4 &&
      taken.every((r) => q.x + w < r.x || q.x > r.x + r.w || q.y < r.y || q.y - 13 > r.y + r.h);
    const spot = spots.find(free) ?? spots[0]!;
    taken.push({ x: spot.x, y: spot.y - 13, w, h: 15 }, { x: cx - 6, y: cy - 6, w: 12, h: 12 });
    return { e, cx, cy, words, tx: spot.x, ty: spot.y };
  });
  const hours = (t: number) => (every < 3600 ? `${plain(t / 60, 0)} min` : `${plain(t / 3600, 0)} h`);

  const move = (k: number, what: "ramp" | "hold", dt: number, dk: number, from: Plan, was: ReturnType<typeof ends>) => {
    const s = from.recipe.segments[k]!;
    const start = k === 0 ? from.recipe.start : from.recipe.segments[k - 1]!.target;
    if (what === "hold") {
      change?.(withSegment(from, k, { hold: Math.max(0, Math.round((s.hold + dt) / 60) * 60) }));
      return;
    }
    const target = wholeDegrees(s.target + dk);
    const takes = Math.max(60, was[k]!.ramp - was[k]!.from + dt);
    const rate = Math.min(0.5, Math.max(0.05 / 60, Math.abs(target - start) / takes));
    const by = target - s.target;
    change?.(
      withSegment(from, k, {
        target,
        rate: dt === 0 ? s.rate : Math.round(rate * 600) / 600,
        ...(s.waitPart ? { waitPart: s.waitPart + by } : {}),
        ...(s.waitCool ? { waitCool: s.waitCool + by } : {}),
      }),
    );
  };
  const down = (e: PointerEvent<SVGRectElement>, k: number, what: "ramp" | "hold") => {
    if (!change) return;
    const target = e.currentTarget;
    const scale = W / target.ownerSVGElement!.getBoundingClientRect().width;
    drag.current = { x: e.clientX, y: e.clientY, plan, at };
    setFrozen(now);
    target.setPointerCapture(e.pointerId);
    const go = (ev: globalThis.PointerEvent) => {
      const d = drag.current!;
      const dt = ((ev.clientX - d.x) * scale * long) / (W - left - right);
      const dk = (-(ev.clientY - d.y) * scale * (high - low)) / (H - top - bottom);
      move(k, what, Math.round(dt / 60) * 60, dk, d.plan, d.at);
    };
    const off = () => {
      target.removeEventListener("pointermove", go);
      setFrozen(null);
    };
    target.addEventListener("pointermove", go);
    target.addEventListener("pointerup", off, { once: true });
    target.addEventListener("pointercancel", off, { once: true });
  };
  const key = (e: KeyboardEvent, k: number, what: "ramp" | "hold") => {
    const by = { ArrowUp: [0, 1], ArrowDown: [0, -1], ArrowLeft: [-300, 0], ArrowRight: [300, 0] }[e.key];
    if (!by || !change) return;
    e.preventDefault();
    move(k, what, by[0]!, by[1]!, plan, at);
  };
  return (
    <svg
      viewBox={`0 0 ${W} ${H}`}
      style={{ width: "100%", display: "block", touchAction: "none" }}
      role="group"
      aria-label={`Cure as planned: ${spell(f.duration)}, hottest ${told.degrees(f.sections[section]!.hottest)}`}
      fontSize={13}
      fill="var(--ink)"
    >
      <clipPath id="plot">
        <rect x={left} y={top} width={W - left - right} height={H - top - bottom} />
      </clipPath>
      {grid.map((g) => (
        <g key={g}>
          <line x1={left} x2={W - right} y1={y(kelvin(g))} y2={y(kelvin(g))} stroke="var(--g4)" />
          <text x={left - 6} y={y(kelvin(g)) + 4} textAnchor="end" fill="var(--g1)">
            {plain(g, 0)}
          </text>
        </g>
      ))}
      <text x={4} y={12} fill="var(--g1)">
        {unitName("temperature")}
      </text>
      {[0, 0.25, 0.5, 0.75, 1].map((v) => (
        <text key={v} x={W - right + 6} y={cureAt(v) + 4} fill="var(--blue)">
          {percent(v)} %
        </text>
      ))}
      {ticks.map((t) => (
        <g key={t}>
          <line x1={x(t)} x2={x(t)} y1={top} y2={H - bottom} stroke="var(--g4)" />
          <text x={x(t)} y={H - bottom + 17} textAnchor="middle" fill="var(--g1)">
            {hours(t)}
          </text>
        </g>
      ))}
      <Lines {...{ f, others, section, long, low, high }} />
      {moment !== undefined && (
        <line x1={x(moment)} x2={x(moment)} y1={top} y2={H - bottom} stroke="var(--blue)" strokeWidth={2.5} />
      )}
      {placed.map(({ e, cx, cy, words, tx, ty }) => (
        <g key={`${e.kind} ${e.t}`}>
          <circle cx={cx} cy={cy} r={5} fill="var(--paper)" stroke="var(--ink)" strokeWidth={1.8} />
          <text x={tx} y={ty} fontWeight={700} paintOrder="stroke" stroke="var(--paper)" strokeWidth={4}>
            {words}
          </text>
        </g>
      ))}
      {change &&
        plan.recipe.segments.flatMap((s, k) => {
          const own = at[k]!;
          const h = (what: "ramp" | "hold", t: number, name: string) => (
            <Handle
              key={`${k}${what}`}
              x={x(t) - 8}
              y={y(s.target) - 8}
              width={16}
              height={16}
              tabIndex={0}
              role="slider"
              aria-label={name}
              aria-valuenow={what === "ramp" ? value("temperature", s.target) : s.hold / 60}
              aria-valuetext={what === "ramp" ? told.degrees(s.target) : spell(s.hold)}
              onPointerDown={(e) => down(e, k, what)}
              onKeyDown={(e) => key(e, k, what)}
            />
          );
          return [
            h("ramp", own.ramp, `Segment ${k + 1}: temperature and ramp`),
            ...(s.hold > 0 ? [h("hold", own.end, `Segment ${k + 1}: hold`)] : []),
          ];
        })}
    </svg>
  );
}

/** What the lines are, in words and by their dashes. */
export function Legend({ f, section, handles = false }: { f: Forecast; section: number; handles?: boolean }) {
  const glass = f.points.some((p) => p.parts[section]?.glass !== undefined);
  const flows = f.points.some((p) => p.parts[section]?.thin !== undefined);
  const pressed = f.points.some((p) => p.pressure > 0 || p.vacuum > 0);
  const vapour = f.points.some((p) => p.asks > 0);
  const one = (name: string, colour: string, width: number, dash?: string) => (
    <span key={name} style={{ display: "inline-flex", gap: 8, alignItems: "center" }}>
      <svg width={34} height={12} aria-hidden="true">
        <line x1={0} x2={34} y1={6} y2={6} stroke={`var(${colour})`} strokeWidth={width} strokeDasharray={dash} />
      </svg>
      {name}
    </span>
  );
  return (
    <small style={{ display: "flex", flexWrap: "wrap", gap: "2px 22px", margin: "2px 0 8px", fontSize: 14 }}>
      {one(handles ? "set point, drag a handle" : "set point", "--g3", 9)}
      {one("air", "--g2", 1)}
      {one("tool under the part", "--ochre", 1.8, "12 3")}
      {one("coldest of the part", "--ink", 3)}
      {one("centre", "--ink", 1.4, "1 4")}
      {one("hottest", "--brick", 2, "2 3")}
      {one("min. degree of cure", "--blue", 2, "7 4")}
      {glass && one("min. glass transition", "--green", 1.8, "9 3 2 3")}
      {flows && one("max. viscosity", "--ink", 2.4)}
      {flows && one("min. viscosity", "--g1", 1.6, "2 3")}
      {pressed && (
        <>
          {one("pressure; shaded: when it may be applied", "--blue", 2.6)}
          {one("vacuum", "--g2", 1.4, "6 4")}
          {vapour && one("least against water vapour", "--green", 1.8, "2 3")}
        </>
      )}
    </small>
  );
}
