// A rolled section seen from its first end, to scale, with where each sheet meets itself; and
// the wall unrolled, every sheet a row, so that seams that come too near each other are seen.
import type { Schemas } from "../../contract/types";
import { bounds, path, scaleBar } from "../../ui/Hatch";
import { angle as signed, told } from "../../ui/format";
import { inSize, shownNumber, unitName } from "../../ui/units";

type Worked = Schemas["RolledAnalysis"];

export function SectionRound({
  worked,
  end,
  names,
  chosen,
  width = 270,
}: {
  worked: Worked;
  end: 0 | 1;
  /** Of the sheets, short. */
  names: string[];
  chosen: number;
  width?: number;
}) {
  const rings = worked.section[end]!;
  const outer = rings.at(-1)!;
  const b = bounds([outer.outline]);
  const pad = 42;
  const scale = Math.min((width - 2 * pad) / (b.x1 - b.x0), (width - 2 * pad) / (b.y1 - b.y0));
  const high = (b.y1 - b.y0) * scale + 2 * pad;
  const x = (v: number) => width / 2 + v * scale;
  const y = (v: number) => high / 2 - v * scale;
  const bar = scaleBar(b.x1 - b.x0);
  const inner = rings[0]!;
  const seams = rings.filter((r) => r.seam);
  return (
    <svg
      viewBox={`0 0 ${width} ${high + 26}`}
      width="100%"
      style={{ maxWidth: width * 1.2 }}
      role="img"
      aria-label={`Section at the ${end === 0 ? "first" : "last"} end, ${told.sides(b.x1 - b.x0, b.y1 - b.y0, 2)}, with its seams`}
    >
      <path d={path(outer.outline, x, y)} fill="var(--g3)" stroke="var(--ink)" strokeWidth={1.5} />
      {rings.slice(1, -1).map((r, k) => (
        <path key={k} d={path(r.outline, x, y)} fill="none" stroke="var(--paper)" strokeWidth={0.5} />
      ))}
      {rings
        .filter((r) => r.sheet === chosen)
        .map((r) => (
          <path key={r.turn} d={path(r.outline, x, y)} fill="none" stroke="var(--blue)" strokeWidth={2} />
        ))}
      <path d={path(inner.outline, x, y)} fill="var(--paper)" stroke="var(--ink)" strokeWidth={1.5} />
      <path
        d={`M${x(0) - 7},${y(0)}h14M${x(0)},${y(0) - 7}v14`}
        stroke="var(--g1)"
        strokeWidth={1}
        aria-hidden="true"
      />
      {seams.map((r, k) => {
        const { at: p, out: n } = r.seam!;
        const same = seams
          .slice(0, k)
          .filter((o) => Math.hypot(o.seam!.at[0]! - p[0]!, o.seam!.at[1]! - p[1]!) * scale < 14);
        const out = 12 + 13 * same.length;
        const on = r.sheet === chosen;
        return <SeamMark key={`${r.sheet} ${r.turn}`} r={r} on={on} x={x} p={p} n={n} y={y} out={out} names={names} />;
      })}
      <path d={`M10,${high + 12}h${bar * scale}`} stroke="var(--ink)" strokeWidth={3} />
      <text x={16 + bar * scale} y={high + 17} fontSize={13} fill="var(--ink)">
        {shownNumber(inSize(bar))} {unitName("size")}, seen from the first end
      </text>
    </svg>
  );
}

/** The wall unrolled at its first end: a row a sheet, the mandrel below. */
export function WallUnrolled({
  worked,
  names,
  chosen,
  choose,
  width = 560,
}: {
  worked: Worked;
  names: string[];
  chosen: number;
  choose: (sheet: number) => void;
  width?: number;
}) {
  const rows = worked.sheets.map((s, k) => ({ s, k })).reverse();
  const row = Math.max(9, Math.min(22, 220 / Math.max(rows.length, 1)));
  const left = 78;
  const span = width - left - 12;
  const words = row >= 13;
  return (
    <svg
      viewBox={`0 0 ${width} ${rows.length * row + 30}`}
      width="100%"
      role="img"
      aria-label="The wall unrolled: where each sheet meets itself, the mandrel below"
    >
      {rows.map(({ s, k }, n) => {
        const y = n * row;
        const p = s.perimeter[0]!;
        const at = left + (s.seam[0]! / p) * span;
        const seam = worked.section[0]!.find((r) => r.sheet === k && r.seam);
        const half = seam ? (Math.abs(seam.seam!.half) / p) * span : 0;
        const lap = seam && seam.seam!.half > 0;
        const on = k === chosen;
        const bits = [at - span, at, at + span].map((c) => [Math.max(left, c - half), Math.min(left + span, c + half)]);
        return (
          <g key={k} onClick={() => choose(k)} style={{ cursor: "pointer" }}>
            <rect
              x={left}
              y={y + 1}
              width={span}
              height={row - 2}
              fill={on ? "var(--blue)" : "var(--g4)"}
              stroke="none"
            />
            {seam &&
              bits
                .filter(([a, z]) => z! > a! || half === 0)
                .map(([a, z], i) => (
                  <rect
                    key={i}
                    x={a}
                    y={lap ? y - 1 : y + 1}
                    width={Math.max(0, z! - a!)}
                    height={lap ? row + 1 : row - 2}
                    fill={lap ? "var(--ink)" : "var(--paper)"}
                  />
                ))}
            {seam && at <= left + span && (
              <path d={`M${at},${y}v${row}`} stroke={lap ? "var(--paper)" : "var(--ink)"} strokeWidth={2} />
            )}
            {words && <RowName left={left} y={y} row={row} on={on} names={names} k={k} s={s} />}
          </g>
        );
      })}
      <path d={`M${left},${rows.length * row + 3}h${span}`} stroke="var(--ink)" strokeWidth={4} />
      <text x={left} y={rows.length * row + 21} fontSize={12.5} fill="var(--ink)">
        mandrel, once round from the middle of its right side; black: overlap, white: gap
      </text>
    </svg>
  );
}

/** Where a turn meets itself, with the ply that it is of. */
function SeamMark({
  r,
  on,
  x,
  p,
  n,
  y,
  out,
  names,
}: {
  r: Schemas["RolledRing"];
  on: boolean;
  x: (v: number) => number;
  p: number[];
  n: number[];
  y: (v: number) => number;
  out: number;
  names: string[];
}) {
  return (
    <g stroke={on ? "var(--blue)" : "var(--ink)"} fill={on ? "var(--blue)" : "var(--ink)"}>
      <path
        d={`M${x(p[0]!) - n[0]! * 5},${y(p[1]!) + n[1]! * 5}L${x(p[0]!) + n[0]! * out},${y(p[1]!) - n[1]! * out}`}
        strokeWidth={on ? 3 : 1.5}
      />
      <text
        x={x(p[0]!) + n[0]! * (out + 9)}
        y={y(p[1]!) - n[1]! * (out + 9) + 5}
        fontSize={13}
        fontWeight={on ? 800 : 400}
        textAnchor="middle"
        stroke="none"
      >
        {names[r.sheet]}
      </text>
    </g>
  );
}

/** The name of a ply beside its row. */
function RowName({
  left,
  y,
  row,
  on,
  names,
  k,
  s,
}: {
  left: 78;
  y: number;
  row: number;
  on: boolean;
  names: string[];
  k: number;
  s: Schemas["RolledSheet"];
}) {
  return (
    <text
      x={left - 6}
      y={y + row * 0.72}
      fontSize={12.5}
      textAnchor="end"
      fontWeight={on ? 800 : 400}
      fill="var(--ink)"
    >
      {names[k]} {s.how === "braid" ? "±" : ""}
      {signed(Math.round((s.angleDeg[0]! + s.angleDeg[1]!) * 5) / 10)}
      {s.turns > 1 ? ` ×${s.turns}` : ""}
    </text>
  );
}
