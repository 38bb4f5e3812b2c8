// A roll with the plies placed on it, to scale, with the true hatch: the fibre
// runs along the roll.
import { useId } from "react";
import type { Schemas } from "../contract/types";
import { bounds, HatchPattern, path } from "./Hatch";
import { told } from "./format";
import { draws, handling, type Handled, type Zone } from "./nestHand";
import { unitName } from "./units";

type Nest = Pick<
  Schemas["NestView"],
  | "placed"
  | "width"
  | "length"
  | "flaws"
  | "edgeTrim"
  | "woven"
  | "thickness"
  | "code"
  | "pieces"
  | "rest"
  | "job"
  | "spoiled"
>;

/** The knife's way is drawn over it where one is given: lifted moves dotted, the pen fine. */
/** How long the cloth is drawn, m, how high and at which scale, and where its corner lies: the whole, or a ply from near. */
function viewOf(nest: Nest, width: number, hand: boolean, look: string | undefined) {
  // Put by hand, a ply may lie beyond the end.
  const length = Math.max(nest.length * (hand ? 1.3 : 1.02), nest.width * 1.6);
  const whole = (width - 4) / length;
  const near = nest.placed.find((p) => p.id === look)?.outline;
  const height = near ? Math.max(nest.width * whole, 380) : nest.width * whole;
  const box = near ? bounds([near]) : { x0: 0, y0: 0, x1: length, y1: nest.width };
  // A ply with as much round it as shows what it lies beside.
  const scale = near ? Math.min(width / (box.x1 - box.x0), height / (box.y1 - box.y0)) / 1.5 : whole;
  const [left, low] = near
    ? [(box.x0 + box.x1) / 2 - width / 2 / scale, (box.y0 + box.y1) / 2 - height / 2 / scale]
    : [0, 0];
  return { length, height, scale, left, low };
}

export function NestDrawing({
  nest,
  width,
  way,
  hand,
  zone,
  onZone,
  look,
  onLook,
}: {
  nest: Nest;
  width: number;
  way?: Schemas["KnifePath"] | undefined;
  hand?: Handled | undefined;
  /** A rectangle that is drawn over the sheet, m; it is drawn where somebody hears of it. */
  zone?: Zone | undefined;
  onZone?: ((zone: Zone) => void) | undefined;
  /** The ply that is looked at from near; none: the whole sheet. */
  look?: string | undefined;
  /** Hears which ply is pressed to be looked at. */
  onLook?: ((id: string) => void) | undefined;
}) {
  const id = useId().replaceAll(":", "");
  const { length, height, scale, left, low } = viewOf(nest, width, hand !== undefined, look);
  const x = (v: number) => 2 + (v - left) * scale;
  const y = (v: number) => 4 + height - (v - low) * scale;
  const feet = unitName("run") === "ft" ? 0.3048 : 1; // a round step of the person's unit
  const seen = (width - 4) / scale;
  const tick =
    (seen > 6 * feet ? (seen > 20 * feet ? 2 : 1) : seen > 2.4 * feet ? 0.5 : seen > 0.8 * feet ? 0.2 : 0.05) * feet;
  const ticks = Array.from({ length: Math.floor(length / tick) + 1 }, (_, i) => i * tick);
  return (
    <svg
      viewBox={`0 0 ${width} ${height + 40}`}
      width="100%"
      role={hand ? "group" : "img"}
      style={hand || onZone ? { touchAction: "none", userSelect: "none" } : undefined}
      aria-label={`Nest ${nest.code}: ${nest.placed.length} of ${nest.pieces} plies placed on ${told.run(nest.length)} of roll`}
    >
      <defs>
        <HatchPattern id={id} of={{ angleDeg: 0, woven: nest.woven, thickness: nest.thickness, faceUp: true }} />
      </defs>
      <SheetDrawn x={x} y={y} nest={nest} length={length} scale={scale} />
      {nest.placed.map((p) => (
        <Piece key={p.id} p={p} nest={nest} id={id} x={x} y={y} scale={scale} way={way} hand={hand} onLook={onLook} />
      ))}
      {nest.spoiled.map((o, k) => (
        <SpoiledDrawn key={k} o={o} x={x} y={y} />
      ))}
      {nest.rest && <LargestRest x={x} rest={nest.rest} y={y} scale={scale} />}
      {nest.job?.state === "running" && <KnifeDrawn x={x} job={nest.job} y={y} />}
      {way && <Way way={way} x={x} y={y} />}
      {nest.length > 0 && (
        <path d={`M${x(nest.length)},0V${height + 12}`} stroke="var(--blue)" strokeWidth={2} strokeDasharray="7 4" />
      )}
      {nest.flaws
        .filter((f) => f.from < length)
        .map((f) => (
          <g key={f.from}>
            <FlawDrawn x={x} f={f} y={y} nest={nest} length={length} scale={scale} />
            <FlawLabel x={x} f={f} />
          </g>
        ))}
      {onZone && <ZoneSurface x={x} length={length} scale={scale} height={height} nest={nest} onZone={onZone} />}
      {zone && zone.to > zone.from && <ZoneDrawn x={x} zone={zone} y={y} scale={scale} />}
      {ticks.map((t) => (
        <RollTick key={t} t={t} x={x} height={height} width={width} tick={tick} feet={feet} />
      ))}
    </svg>
  );
}

type Place = (v: number) => number;

function Way({ way, x, y }: { way: Schemas["KnifePath"]; x: Place; y: Place }) {
  const line = (points: [number, number][]) => points.map((q, n) => `${n ? "L" : "M"}${x(q[0])},${y(q[1])}`).join("");
  const pen = way.strokes.filter((s) => s.tool === "pen");
  const ends = way.strokes.map((s) => [s.points[0]!, s.points.at(-1)!] as const);
  return (
    <g fill="none">
      <path d={pen.map((s) => line(s.points as [number, number][])).join("")} stroke="var(--ink)" strokeWidth={0.8} />
      <path
        d={ends
          .slice(1)
          .map(([to], k) => line([ends[k]![1], to] as [number, number][]))
          .join("")}
        stroke="var(--blue)"
        strokeWidth={1}
        strokeDasharray="2 3"
      />
    </g>
  );
}

type Shown = {
  p: Schemas["PieceView"];
  nest: Nest;
  /** Of the hatch. */
  id: string;
  x: Place;
  y: Place;
  scale: number;
  way: Schemas["KnifePath"] | undefined;
  hand: Handled | undefined;
  onLook: ((id: string) => void) | undefined;
};

/** One ply as it lies: its outline with the hatch, its marks and its label. */
function Piece({ p, nest, id, x, y, scale, way, hand, onLook }: Shown) {
  const xs = p.outline.map((q) => q[0]!);
  const ys = p.outline.map((q) => q[1]!);
  const wide = (Math.max(...xs) - Math.min(...xs)) * scale;
  const tall = (Math.max(...ys) - Math.min(...ys)) * scale;
  const cx = x((Math.min(...xs) + Math.max(...xs)) / 2);
  const cy = y((Math.min(...ys) + Math.max(...ys)) / 2);
  const fits = (text: string) => Math.min(15, (wide * 0.8) / (text.length * 0.56));
  const free = nest.job?.freed.includes(p.id) ?? false;
  const knifed = nest.job?.piece === p.id && !free;
  // Small pieces carry the end of the label only: serial and ply.
  const label = (free ? "✓ " : "") + (fits(p.label) >= 12 ? p.label : `${p.serial} · ${p.ply}`);
  const size = fits(label);
  const over = hand?.overlaps(p.id) ?? false;
  const held = hand?.drag?.id === p.id ? hand.drag : undefined;
  const chosen = hand?.chosen === p.id;
  return (
    <g
      {...(onLook && !hand ? { onClick: () => onLook(p.id), style: { cursor: "zoom-in" } } : {})}
      {...(hand ? handling(hand, p, scale, `${p.label}${hand.fixed(p.id) ? ", locked" : ""}`) : {})}
      transform={held ? `translate(${held.dx * scale},${-held.dy * scale})` : undefined}
    >
      <path
        d={path(p.outline, x, y)}
        fill={way ? "none" : free || hand?.fixed(p.id) ? "var(--wash)" : `url(#${id})`}
        stroke={over || held?.over.length ? "var(--brick)" : knifed || chosen ? "var(--blue)" : "var(--ink)"}
        strokeWidth={knifed || chosen || over ? 4 : 1.5}
        strokeDasharray={over || held?.over.length ? "8 4" : undefined}
      />
      {p.marks
        ?.filter((m) => m.points.length > 1)
        .map((m, k) => (
          <path
            key={k}
            d={m.points.map((q, n) => `${n ? "L" : "M"}${x(q.x)},${y(q.y)}`).join("") + (m.closed ? "Z" : "")}
            fill={m.closed ? "var(--paper)" : "none"}
            stroke="var(--ink)"
            strokeWidth={1.5}
          />
        ))}
      {p.missing && (
        <path
          d={`M${x(Math.min(...xs))},${y(Math.min(...ys))}L${x(Math.max(...xs))},${y(Math.max(...ys))}M${x(Math.min(...xs))},${y(Math.max(...ys))}L${x(Math.max(...xs))},${y(Math.min(...ys))}`}
          stroke="var(--brick)"
          strokeWidth={2}
        />
      )}
      {size > 6 && tall > 16 && (!way || free) && (
        <>
          <rect
            x={cx - label.length * size * 0.29}
            y={cy - size * 0.75}
            width={label.length * size * 0.58}
            height={size * 1.45}
            fill="var(--paper)"
          />
          <text x={cx} y={cy + size * 0.34} fontSize={size} fontWeight={700} textAnchor="middle" fill="var(--ink)">
            {label}
          </text>
        </>
      )}
    </g>
  );
}

/** The largest rectangle on which nothing lies. */
function LargestRest({
  x,
  rest,
  y,
  scale,
}: {
  x: (v: number) => number;
  rest: Schemas["Remnant"];
  y: (v: number) => number;
  scale: number;
}) {
  return (
    <g>
      <rect
        x={x(rest.x) + 2}
        y={y(rest.y + rest.height) + 2}
        width={Math.max(0, rest.width * scale - 4)}
        height={Math.max(0, rest.height * scale - 4)}
        fill="none"
        stroke="var(--blue)"
        strokeWidth={1.5}
        strokeDasharray="3 4"
      />
      {rest.width * scale > 170 && rest.height * scale > 20 && (
        <text
          x={x(rest.x + rest.width / 2)}
          y={y(rest.y + rest.height / 2) + 5}
          fontSize={14}
          textAnchor="middle"
          fill="var(--blue)"
          fontWeight={700}
        >
          left {told.size(rest.width, 0)} × {told.size(rest.height, 0)}
        </text>
      )}
    </g>
  );
}

/** A place along the roll. */
function RollTick({
  t,
  x,
  height,
  width,
  tick,
  feet,
}: {
  t: number;
  x: (v: number) => number;
  height: number;
  width: number;
  tick: number;
  feet: 1 | 0.3048;
}) {
  return (
    <g>
      <path d={`M${x(t)},${height + 4}v7`} stroke="var(--ink)" />
      <text
        x={x(t)}
        y={height + 28}
        fontSize={13}
        fill="var(--g1)"
        textAnchor={t === 0 ? "start" : x(t) > width - 30 ? "end" : "middle"}
      >
        {told.run(t, tick < feet ? 1 : 0)}
      </text>
    </g>
  );
}

/** A flaw of the roll. */
function FlawDrawn({
  x,
  f,
  y,
  nest,
  length,
  scale,
}: {
  x: (v: number) => number;
  f: Schemas["Flaw"];
  y: (v: number) => number;
  nest: Nest;
  length: number;
  scale: number;
}) {
  return (
    <rect
      x={x(f.from)}
      y={y(f.high ? f.high : nest.width)}
      width={(Math.min(f.to, length) - f.from) * scale}
      height={(f.high ? f.high - (f.low ?? 0) : nest.width) * scale}
      fill="var(--brick)"
      fillOpacity={0.13}
      stroke="var(--brick)"
      strokeWidth={1.5}
    />
  );
}

/** A zone that is marked now. */
function ZoneDrawn({
  x,
  zone,
  y,
  scale,
}: {
  x: (v: number) => number;
  zone: Zone;
  y: (v: number) => number;
  scale: number;
}) {
  return (
    <rect
      x={x(zone.from)}
      y={y(zone.high)}
      width={(zone.to - zone.from) * scale}
      height={Math.max(0, (zone.high - zone.low) * scale)}
      fill="var(--brick)"
      fillOpacity={0.2}
      stroke="var(--brick)"
      strokeWidth={2}
      pointerEvents="none"
    />
  );
}

/** Names a flaw. */
function FlawLabel({ x, f }: { x: (v: number) => number; f: Schemas["Flaw"] }) {
  return (
    <text x={x((f.from + f.to) / 2)} y={22} fontSize={13} textAnchor="middle" fill="var(--brick)" fontWeight={700}>
      flaw
    </text>
  );
}

/** Cloth that is spoiled. */
function SpoiledDrawn({ o, x, y }: { o: number[][]; x: (v: number) => number; y: (v: number) => number }) {
  return (
    <path
      d={path(o, x, y)}
      fill="var(--brick)"
      fillOpacity={0.13}
      stroke="var(--brick)"
      strokeWidth={1.5}
      strokeDasharray="6 4"
    >
      <title>spoiled</title>
    </path>
  );
}

/** Where the knife is. */
function KnifeDrawn({ x, job, y }: { x: (v: number) => number; job: Schemas["CutJobView"]; y: (v: number) => number }) {
  return (
    <path d={`M${x(job.x) - 12},${y(job.y)}h24M${x(job.x)},${y(job.y) - 12}v24`} stroke="var(--blue)" strokeWidth={3} />
  );
}

/** The sheet. */
function SheetDrawn({
  x,
  y,
  nest,
  length,
  scale,
}: {
  x: (v: number) => number;
  y: (v: number) => number;
  nest: Nest;
  length: number;
  scale: number;
}) {
  return (
    <rect
      x={x(0)}
      y={y(nest.width)}
      width={length * scale}
      height={nest.width * scale}
      fill="none"
      stroke="var(--ink)"
      strokeWidth={2}
    />
  );
}

/** What takes the pointer while a zone is marked. */
function ZoneSurface({
  x,
  length,
  scale,
  height,
  nest,
  onZone,
}: {
  x: (v: number) => number;
  length: number;
  scale: number;
  height: number;
  nest: Nest;
  onZone: (zone: Zone) => void;
}) {
  return (
    <rect
      x={x(0)}
      y={4}
      width={length * scale}
      height={height}
      fill="transparent"
      style={{ cursor: "crosshair" }}
      onPointerDown={(e) => draws(e, scale, nest.width, onZone)}
    />
  );
}
