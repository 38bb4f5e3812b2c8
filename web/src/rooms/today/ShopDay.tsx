// The shop's day by place: what was done is filled, what goes on by itself is hatched, what
// would come next is an empty box. The same facts stand in a table below.
import { useId } from "react";
import type { Schemas } from "../../contract/types";
import { clock } from "../../ui/format";
import { Table } from "../../ui/parts";
import { rowsOf } from "../../ui/rows";

type Places = Schemas["Places"];
type Bar = Places["places"][number]["bars"][number];

const wide = 460;
const names = 104;
const high = 18;
/** Rows of one place that are drawn; more stand in the table. */
const most = 4;

const words: Record<Bar["kind"], string> = {
  done: "done",
  "in work": "in work",
  unattended: "unattended",
  planned: "next",
};

export function ShopDay({ of, table = true }: { of: Places; table?: boolean }) {
  const hatch = useId();
  const from = new Date(of.from).getTime();
  const to = new Date(of.to).getTime();
  const x = (iso: string) => {
    const t = Math.min(to, Math.max(from, new Date(iso).getTime()));
    return names + ((t - from) / (to - from)) * (wide - names);
  };
  const lanes = of.places.filter((p) => p.bars.length > 0);
  if (lanes.length === 0) return null;
  let y = 4;
  const drawn = lanes.map((p) => {
    const { rows, count } = rowsOf(p.bars);
    const top = y;
    const shown = Math.min(count, most);
    y += shown * high + 8;
    return { p, rows, top, left: p.bars.filter((_, k) => rows[k]! >= most).length };
  });
  const hours: Date[] = [];
  const first = new Date(from);
  first.setMinutes(0, 0, 0);
  for (let t = first.getTime(); t <= to; t += 3600e3)
    if (t >= from && new Date(t).getHours() % 3 === 0) hours.push(new Date(t));
  const all = lanes.flatMap((p) => p.bars.map((b) => ({ b, place: p.name })));
  return (
    <figure style={{ margin: 0 }}>
      <svg
        viewBox={`0 0 ${wide} ${y + 18}`}
        width="100%"
        role="img"
        aria-label={`The shop today at ${lanes.length} places: ${all.filter(({ b }) => b.kind === "done").length} operations done, ${
          all.filter(({ b }) => b.kind === "in work" || b.kind === "unattended").length
        } going on, ${all.filter(({ b }) => b.kind === "planned").length} next`}
      >
        <defs>
          <pattern id={hatch} width="5" height="5" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
            <line x1="0" y1="0" x2="0" y2="5" stroke="var(--ink)" strokeWidth="1.6" />
          </pattern>
        </defs>
        {hours.map((h) => (
          <g key={h.getTime()}>
            <line x1={x(h.toISOString())} x2={x(h.toISOString())} y1={0} y2={y} stroke="var(--g4)" />
            <text x={x(h.toISOString())} y={y + 13} fontSize="11" textAnchor="middle" fill="var(--g1)">
              {clock(h.toISOString())}
            </text>
          </g>
        ))}
        {drawn.map(({ p, rows, top, left }) => (
          <PlaceRow key={p.name} p={p} top={top} left={left} rows={rows} x={x} hatch={hatch} />
        ))}
        <line x1={x(of.now)} x2={x(of.now)} y1={0} y2={y} stroke="var(--blue)" strokeWidth={2} />
        <text x={x(of.now)} y={y + 13} fontSize="11" fontWeight={700} textAnchor="middle" fill="var(--blue)">
          {clock(of.now)}
        </text>
      </svg>
      {table && (
        <details>
          <summary style={{ minHeight: 32, cursor: "pointer" }}>The same in words</summary>
          <Table>
            <tbody>
              {all.map(({ b, place }, k) => (
                <tr key={k}>
                  <td>{place}</td>
                  <td>{b.label}</td>
                  <td>
                    {words[b.kind]}, {clock(b.from)} to {clock(b.to)}
                  </td>
                </tr>
              ))}
            </tbody>
          </Table>
          <small>
            What is next is shown where it would start if each place did one thing after another, most urgent first: no
            promise.
          </small>
        </details>
      )}
    </figure>
  );
}

/** A place with what is done there. */
function PlaceRow({
  p,
  top,
  left,
  rows,
  x,
  hatch,
}: {
  p: Schemas["Place"];
  top: number;
  left: number;
  rows: number[];
  x: (iso: string) => number;
  hatch: string;
}) {
  return (
    <g>
      <text x={0} y={top + 13} fontSize="12.5" fill="var(--g1)">
        {p.name}
        {left > 0 && ` +${left}`}
      </text>
      {p.bars.map((b, k) =>
        rows[k]! >= most ? null : (
          <rect
            key={k}
            x={x(b.from)}
            width={Math.max(3, x(b.to) - x(b.from))}
            y={top + rows[k]! * high}
            height={high - 4}
            fill={b.kind === "planned" ? "var(--paper)" : b.kind === "unattended" ? `url(#${hatch})` : "var(--ink)"}
            stroke="var(--ink)"
            strokeWidth={1.2}
          >
            <title>{`${b.label}, ${words[b.kind]}, ${clock(b.from)} to ${clock(b.to)}`}</title>
          </rect>
        ),
      )}
    </g>
  );
}
