// The plan: every layer on the tool in its true hatch, the chosen one filled,
// the line of the section, dimensions from the datum that can be typed. Wheel,
// pinch, drag and keys zoom and move it.
import { memo, useId, useMemo, useState } from "react";
import styled from "styled-components";
import { bounds, Hatches, hatchKey, path, placed, scaleBar } from "../../ui/Hatch";
import type { Line } from "../master/useMaster";
import type { Schemas } from "../../contract/types";
import type { Layer } from "../../ui/layers";
import { Button, NumberField } from "../../ui/parts";
import { hint, useZoom } from "../../ui/zoom";
import { inSize, shownNumber, unitName } from "../../ui/units";

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
  .dimension {
    position: absolute;
    width: 86px;
  }
  .dimension input {
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
  tool,
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
  /** Where the chosen item's outline has its origin, m from the datum; set moves it, where it may be moved. */
  place?: { x: number; y: number; of?: string; set?: (x: number, y: number) => void };
  /** Inserts and the like, at their places. */
  lumps?: { key: string; label: string; x: number; y: number }[];
  tool?: Schemas["ToolOutline"];
}) {
  const id = useId().replaceAll(":", "");
  const [far, setFar] = useState(false); // the whole tool is in sight, not the part alone
  // Which layers have one outline is worked out once for a stack of hundreds.
  const alike = useMemo(() => {
    const names = new Map<Layer["outline"], string>();
    for (const l of layers) if (!names.has(l.outline)) names.set(l.outline, JSON.stringify(l.outline));
    return new Map(layers.map((l) => [l, names.get(l.outline)!]));
  }, [layers]);
  const b = useMemo(
    () => bounds([...new Set(layers.map((l) => l.outline)), ...(far && tool ? [tool.outline] : [])]),
    [layers, far, tool],
  );
  const pad = 40;
  const fit = Math.min((width - 2 * pad) / (b.x1 - b.x0), (height - 2 * pad) / (b.y1 - b.y0));
  // Of the section's line an end can be taken hold of.
  const { view, on: moves } = useZoom(width, height, (at) => {
    const k = ([0, 1] as const).find(
      (k) => line && Math.hypot(x(line[2 * k]!) - at.x, y(line[2 * k + 1]!) - at.y) < 22,
    );
    if (!line || !setLine || k === undefined) return null;
    return (to) => {
      const next = [...line] as Line;
      next[2 * k] = Math.round((cx + (to.x - width / 2 - view.x) / scale) * 1e4) / 1e4;
      next[2 * k + 1] = Math.round((cy - (to.y - height / 2 - view.y) / scale) * 1e4) / 1e4;
      setLine(next);
    };
  });
  const scale = fit * view.zoom;
  const cx = (b.x0 + b.x1) / 2;
  const cy = (b.y0 + b.y1) / 2;
  const x = (v: number) => width / 2 + (v - cx) * scale + view.x;
  const y = (v: number) => height / 2 - (v - cy) * scale + view.y;
  if (layers.length === 0) return null;
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
  const set = place?.set;
  const barLength = scaleBar((width - 2 * pad) / scale);
  return (
    <Frame>
      {/* A drawing that is moved and zoomed is a widget of its own. */}
      <svg
        {...moves}
        viewBox={`0 0 ${width} ${height}`}
        width="100%"
        role="application"
        aria-label={`${label}. Plus, minus, 0 and the wheel zoom, arrows move it.`}
      >
        <title>{hint}</title>
        <defs>
          <Hatches prefix={id} of={[...ghosts, ...on]} />
        </defs>
        {tool && (
          <g>
            <path
              d={path(tool.outline, x, y)}
              fill="none"
              stroke="var(--g2)"
              strokeWidth={1.6}
              strokeDasharray="10 5"
            />
            {far && (
              <text
                x={x(Math.min(...tool.outline.map((p) => p[0]!))) + 8}
                y={y(Math.max(...tool.outline.map((p) => p[1]!))) + 17}
                fontSize={14}
                fill="var(--g1)"
              >
                {tool.name}
              </text>
            )}
          </g>
        )}
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
          <path
            key={l.key}
            d={path(l.outline, x, y)}
            fill={`url(#${id}${hatchKey(l)})`}
            stroke="var(--ink)"
            strokeWidth={3}
          />
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
        {place && (
          <g stroke="var(--blue)" strokeWidth={1.5}>
            <path d={`M${x(0)},${y(0)}H${x(place.x)}V${y(place.y)}`} fill="none" strokeDasharray="4 3" />
            <path d={`M${x(place.x) - 7},${y(place.y)}h14M${x(place.x)},${y(place.y) - 7}v14`} strokeWidth={2.5} />
            {!place.set && (
              <g fontSize={17} fontWeight={700} fill="var(--blue)" stroke="none">
                {place.x !== 0 && (
                  <text x={(x(0) + x(place.x)) / 2} y={y(0) - 6} textAnchor="middle">
                    x {placed(place.x)}
                  </text>
                )}
                {place.y !== 0 && (
                  <text x={x(place.x) + 8} y={(y(0) + y(place.y)) / 2 + 5}>
                    y {placed(place.y)}
                  </text>
                )}
              </g>
            )}
          </g>
        )}
        <g stroke="var(--blue)" strokeWidth={2} fill="none">
          <circle cx={x(0)} cy={y(0)} r={6} />
          <path d={`M${x(0) - 11},${y(0)}h22M${x(0)},${y(0) - 11}v22`} />
        </g>
        <text x={x(0) + 12} y={y(0) + 22} fontSize={15} fontWeight={700} fill="var(--blue)">
          {tool?.datum ?? "datum"}
        </text>
        <path
          d={`M${width - pad - barLength * scale},${height - 14}h${barLength * scale}`}
          stroke="var(--ink)"
          strokeWidth={3}
        />
        <text x={width - pad - barLength * scale - 8} y={height - 9} fontSize={14} textAnchor="end" fill="var(--ink)">
          {shownNumber(inSize(barLength))} {unitName("size")}
        </text>
        <g stroke="var(--ink)" strokeWidth={2} fill="none">
          <path d={`M${width - 44},20h32M${width - 12},20l-9,-5M${width - 12},20l-9,5`} />
        </g>
        <text x={width - 44} y={40} fontSize={15} fill="var(--ink)">
          0°
        </text>
      </svg>
      {tool && (
        <div style={{ position: "absolute", left: 0, top: 0 }}>
          <Button $quiet $small onPress={() => setFar(!far)}>
            {far ? "Part alone" : "Whole tool"}
          </Button>
        </div>
      )}
      {set && place && (
        <>
          {/* One under the leg along x, the other beside the leg along y and above the first. */}
          <Dimension
            key={`x ${place.of} ${place.x}`}
            name="x"
            of={place.of}
            left={`${clamp(((x(0) + x(place.x)) / 2 / width) * 100 - 8)}%`}
            top={`${clamp((y(0) / height) * 100 + 3)}%`}
            value={place.x}
            set={(v) => set(v, place.y)}
          />
          <Dimension
            key={`y ${place.of} ${place.y}`}
            name="y"
            of={place.of}
            left={`${clamp((x(place.x) / width) * 100 + 2)}%`}
            top={`${Math.max(0, Math.min(((y(0) + y(place.y)) / 2 / height) * 100 - 7, clamp((y(0) / height) * 100 + 3) - 17))}%`}
            value={place.y}
            set={(v) => set(place.x, v)}
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
  of = "the chosen item",
  left,
  top,
  value,
  set,
}: {
  name: string;
  of?: string | undefined;
  left: string;
  top: string;
  value: number;
  set: (v: number) => void;
}) {
  return (
    <div style={{ left, top }} className="dimension">
      <NumberField
        plain
        late
        need
        label={`${name} of ${of} from the datum, mm`}
        value={value * 1e3}
        onChange={(v) => set(v / 1e3)}
      />
    </div>
  );
}
