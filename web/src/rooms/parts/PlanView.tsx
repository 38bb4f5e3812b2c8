// The plan: every layer on the tool in its true hatch, the chosen one filled,
// the line of the section, dimensions from the datum that can be typed. Wheel,
// pinch, drag and keys zoom and move it.
import { memo, useId, useMemo, useRef, useState, type KeyboardEvent, type PointerEvent, type WheelEvent } from "react";
import styled from "styled-components";
import { bounds, Hatches, hatchKey, path, scaleBar } from "../../ui/Hatch";
import type { Layer } from "../../ui/layers";

const Frame = styled.div`
  position: relative;
  svg {
    display: block;
    touch-action: none;
    border-bottom: 1px solid var(--g4);
  }
  svg:focus {
    outline: 3px solid var(--blue);
  }
  input {
    position: absolute;
    width: 86px;
    font: inherit;
    font-weight: 700;
    font-variant-numeric: tabular-nums;
    min-height: 32px;
    border: 1.5px solid var(--blue);
    background: var(--paper);
    color: var(--blue);
    text-align: right;
    padding: 0 4px;
  }
`;

type View = { x: number; y: number; zoom: number };
export type Line = [number, number, number, number];

// It is drawn anew only when something of it changed.
export const PlanView = memo(PlanOf);

function PlanOf({
  layers,
  chosen,
  found,
  width,
  height,
  label,
  line,
  setLine,
  pick,
  place,
  lumps = [],
}: {
  layers: Layer[];
  chosen: string[];
  found: Set<string>;
  width: number;
  height: number;
  label: string;
  line?: Line;
  setLine?: (l: Line) => void;
  pick?: (key: string) => void;
  /** Moves the chosen item to a place, m from the datum; missing: it cannot. */
  place?: { x: number; y: number; set: (x: number, y: number) => void };
  /** Inserts and the like, at their places. */
  lumps?: { key: string; label: string; x: number; y: number }[];
}) {
  const id = useId().replaceAll(":", "");
  const [view, setView] = useState<View>({ x: 0, y: 0, zoom: 1 });
  const svg = useRef<SVGSVGElement>(null);
  const pointers = useRef(new Map<number, { x: number; y: number }>());
  const end = useRef<0 | 1 | null>(null);
  // Which layers have one outline is worked out once for a stack of hundreds.
  const alike = useMemo(() => {
    const names = new Map<Layer["outline"], string>();
    for (const l of layers) if (!names.has(l.outline)) names.set(l.outline, JSON.stringify(l.outline));
    return new Map(layers.map((l) => [l, names.get(l.outline)!]));
  }, [layers]);
  const b = useMemo(() => bounds([...new Set(layers.map((l) => l.outline))]), [layers]);
  if (layers.length === 0) return null;
  const pad = 40;
  const fit = Math.min((width - 2 * pad) / (b.x1 - b.x0), (height - 2 * pad) / (b.y1 - b.y0));
  const scale = fit * view.zoom;
  const cx = (b.x0 + b.x1) / 2;
  const cy = (b.y0 + b.y1) / 2;
  const x = (v: number) => width / 2 + (v - cx) * scale + view.x;
  const y = (v: number) => height / 2 - (v - cy) * scale + view.y;
  const back = (px: number, py: number): [number, number] => [
    cx + (px - width / 2 - view.x) / scale,
    cy - (py - height / 2 - view.y) / scale,
  ];
  const inside = (e: { clientX: number; clientY: number }) => {
    const r = svg.current!.getBoundingClientRect();
    return { x: ((e.clientX - r.left) / r.width) * width, y: ((e.clientY - r.top) / r.height) * height };
  };
  const zoomAt = (factor: number, px: number, py: number) =>
    setView((v) => {
      const zoom = Math.min(200, Math.max(0.5, v.zoom * factor));
      const k = zoom / v.zoom;
      return { zoom, x: px - width / 2 - (px - width / 2 - v.x) * k, y: py - height / 2 - (py - height / 2 - v.y) * k };
    });
  const wheel = (e: WheelEvent) => {
    const p = inside(e);
    zoomAt(Math.exp(-e.deltaY * 0.0015), p.x, p.y);
  };
  const down = (e: PointerEvent) => {
    svg.current!.setPointerCapture(e.pointerId);
    const p = inside(e);
    pointers.current.set(e.pointerId, p);
    end.current = null;
    if (line && setLine)
      ([0, 1] as const).forEach((k) => {
        if (Math.hypot(x(line[2 * k]!) - p.x, y(line[2 * k + 1]!) - p.y) < 22) end.current = k;
      });
  };
  const move = (e: PointerEvent) => {
    const was = pointers.current.get(e.pointerId);
    if (!was) return;
    const p = inside(e);
    const others = [...pointers.current.entries()].filter(([k]) => k !== e.pointerId).map(([, v]) => v);
    if (others[0]) {
      const o = others[0];
      zoomAt(Math.hypot(p.x - o.x, p.y - o.y) / Math.max(1, Math.hypot(was.x - o.x, was.y - o.y)), o.x, o.y);
    } else if (end.current !== null && line && setLine) {
      const next = [...line] as Line;
      const [mx, my] = back(p.x, p.y);
      next[2 * end.current] = Math.round(mx * 1e4) / 1e4;
      next[2 * end.current + 1] = Math.round(my * 1e4) / 1e4;
      setLine(next);
    } else setView((v) => ({ ...v, x: v.x + p.x - was.x, y: v.y + p.y - was.y }));
    pointers.current.set(e.pointerId, p);
  };
  const up = (e: PointerEvent) => void pointers.current.delete(e.pointerId);
  const keys = (e: KeyboardEvent) => {
    const by = 40;
    const does: Record<string, () => void> = {
      "+": () => zoomAt(1.25, width / 2, height / 2),
      "=": () => zoomAt(1.25, width / 2, height / 2),
      "-": () => zoomAt(0.8, width / 2, height / 2),
      "0": () => setView({ x: 0, y: 0, zoom: 1 }),
      ArrowLeft: () => setView((v) => ({ ...v, x: v.x + by })),
      ArrowRight: () => setView((v) => ({ ...v, x: v.x - by })),
      ArrowUp: () => setView((v) => ({ ...v, y: v.y + by })),
      ArrowDown: () => setView((v) => ({ ...v, y: v.y - by })),
    };
    if (!does[e.key]) return;
    does[e.key]!();
    e.preventDefault();
    e.stopPropagation();
  };
  const on = layers.filter((l) => chosen.includes(l.key));
  const rest = layers.filter((l) => !chosen.includes(l.key));
  // The largest first, so that what lies on it is seen; one of each outline.
  const groups = new Map<string, Layer[]>();
  for (const l of rest) {
    const group = groups.get(alike.get(l)!);
    if (group) group.push(l);
    else groups.set(alike.get(l)!, [l]);
  }
  // An outline is marked when a finding is about any of the layers that have it.
  const ghosts = [...groups.values()]
    .map((g) => ({ ...g[0]!, marked: g.some((l) => found.has(l.key)) }))
    .sort((p, q) => q.area - p.area);
  const top = on.at(-1);
  const corner = top?.outline.reduce((a, p) => (Math.hypot(p[0]!, p[1]!) < Math.hypot(a[0]!, a[1]!) ? p : a));
  const barLength = scaleBar((width - 2 * pad) / scale);
  return (
    <Frame>
      {/* A drawing that is moved and zoomed is a widget of its own. */}
      {}
      <svg
        ref={svg}
        viewBox={`0 0 ${width} ${height}`}
        width="100%"
        role="application"
        aria-label={`${label}. Plus, minus and 0 zoom, arrows move it.`}

        tabIndex={0}
        onWheel={wheel}
        onPointerDown={down}
        onPointerMove={move}
        onPointerUp={up}
        onPointerCancel={up}
        onKeyDown={keys}
      >
        <defs>
          <Hatches prefix={id} of={[...ghosts, ...on]} />
        </defs>
        {ghosts.map((l) => (
          <path
            key={l.key}
            d={path(l.outline, x, y)}
            fill={on.length > 0 ? "none" : `url(#${id}${hatchKey(l)})`}
            stroke={l.marked ? "var(--brick)" : on.length > 0 ? "var(--g3)" : "var(--ink)"}
            strokeWidth={l.marked ? 3 : 1.6}
            onDoubleClick={() => pick?.(l.key)}
          />
        ))}
        {on.map((l) => (
          <path key={l.key} d={path(l.outline, x, y)} fill={`url(#${id}${hatchKey(l)})`} stroke="var(--ink)" strokeWidth={3} />
        ))}
        {line && (
          <g stroke="var(--brick)" strokeWidth={2}>
            <path d={`M${x(line[0])},${y(line[1])}L${x(line[2])},${y(line[3])}`} strokeDasharray="14 4 3 4" />
            {([0, 1] as const).map((k) => (
              <g key={k}>
                <circle cx={x(line[2 * k]!)} cy={y(line[2 * k + 1]!)} r={setLine ? 8 : 3} fill="var(--paper)" />
                <text
                  x={x(line[2 * k]!)}
                  y={y(line[2 * k + 1]!) - 14}
                  fontSize={15}
                  fontWeight={700}
                  textAnchor="middle"
                  fill="var(--brick)"
                  stroke="none"
                >
                  {k === 0 ? "from" : "to"}
                </text>
              </g>
            ))}
          </g>
        )}
        {lumps.map((l) => {
          const on = chosen.includes(l.key);
          return (
            <g key={l.key} stroke={found.has(l.key) ? "var(--brick)" : "var(--ink)"} strokeWidth={on ? 3 : 1.6}>
              <path d={`M${x(l.x) - 8},${y(l.y)}l8,-8l8,8l-8,8Z`} fill="var(--paper)" />
              <path d={`M${x(l.x) - 3},${y(l.y)}h6M${x(l.x)},${y(l.y) - 3}v6`} />
              {on && (
                <text x={x(l.x) + 12} y={y(l.y) + 5} fontSize={14} fontWeight={700} fill="var(--ink)" stroke="none">
                  {l.label}
                </text>
              )}
            </g>
          );
        })}
        {corner && (
          <g stroke="var(--blue)" strokeWidth={1.5}>
            <path d={`M${x(0)},${y(0)}H${x(corner[0]!)}V${y(corner[1]!)}`} fill="none" strokeDasharray="4 3" />
          </g>
        )}
        <g stroke="var(--blue)" strokeWidth={2} fill="none">
          <circle cx={x(0)} cy={y(0)} r={6} />
          <path d={`M${x(0) - 11},${y(0)}h22M${x(0)},${y(0) - 11}v22`} />
        </g>
        <text x={x(0) + 12} y={y(0) + 22} fontSize={15} fontWeight={700} fill="var(--blue)">
          datum
        </text>
        <path d={`M${width - pad - barLength * scale},${height - 14}h${barLength * scale}`} stroke="var(--ink)" strokeWidth={3} />
        <text x={width - pad - barLength * scale - 8} y={height - 9} fontSize={14} textAnchor="end" fill="var(--ink)">
          {+(barLength * 1000).toPrecision(2)} mm
        </text>
        <g stroke="var(--ink)" strokeWidth={2} fill="none">
          <path d={`M${width - 44},20h32M${width - 12},20l-9,-5M${width - 12},20l-9,5`} />
        </g>
        <text x={width - 44} y={40} fontSize={15} fill="var(--ink)">
          0°
        </text>
      </svg>
      {place && corner && (
        <>
          <Dimension
            key={`x${place.x}`}
            name="x"
            left={`${clamp(((x(0) + x(corner[0]!)) / 2 / width) * 100)}%`}
            top={`${clamp((y(0) / height) * 100)}%`}
            value={place.x}
            set={(v) => place.set(v, place.y)}
          />
          <Dimension
            key={`y${place.y}`}
            name="y"
            left={`${clamp((x(corner[0]!) / width) * 100)}%`}
            top={`${clamp(((y(0) + y(corner[1]!)) / 2 / height) * 100 - 8)}%`}
            value={place.y}
            set={(v) => place.set(place.x, v)}
          />
        </>
      )}
    </Frame>
  );
}

const clamp = (v: number) => Math.min(82, Math.max(2, v));

/** A dimension on the drawing that takes a typed value, mm. */
function Dimension({
  name,
  left,
  top,
  value,
  set,
}: {
  name: string;
  left: string;
  top: string;
  value: number;
  set: (v: number) => void;
}) {
  const [text, setText] = useState(String(+(value * 1e3).toFixed(3)));
  const keep = () => {
    const v = Number(text.replace(",", ".").replace("−", "-"));
    if (text.trim() !== "" && Number.isFinite(v)) {
      if (v / 1e3 !== value) set(v / 1e3);
    } else setText(String(+(value * 1e3).toFixed(3)));
  };
  return (
    <input
      aria-label={`${name} of the chosen item from the datum, mm`}
      style={{ left, top }}
      value={text}
      onChange={(e) => setText(e.target.value)}
      onBlur={keep}
      onKeyDown={(e) => e.key === "Enter" && keep()}
    />
  );
}
