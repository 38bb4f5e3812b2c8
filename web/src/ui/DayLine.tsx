// The last day of a sensor: the limit as a rule, the record as a line. A silence
// breaks the line.
import type { Schemas } from "../contract/types";
import { clock, told } from "./format";
import { Mark, Row } from "./parts";
import { plain, unitName, value } from "./units";

const wide = 640;
const high = 120;
const left = 48;
const base = high - 22;
const top = 8;

export function DayLine({ sensor: s }: { sensor: Schemas["SensorView"] }) {
  const seen = s.readings.filter((r) => r.temperature != null);
  const last = seen.at(-1);
  const temps = seen.map((r) => value("temperature", r.temperature!));
  const limit = s.limitTemp ? value("temperature", s.limitTemp) : undefined;
  const unit = unitName("temperature");
  const most = Math.max(...temps, limit ?? -Infinity) + 1.5;
  const least = Math.min(...temps, limit ?? Infinity) - 1.5;
  const end = Date.now();
  const x = (iso: string) => left + (1 - (end - new Date(iso).getTime()) / 86400e3) * (wide - left - 8);
  const y = (c: number) => base - ((c - least) / (most - least)) * (base - top);
  let path = "";
  let before = 0;
  for (const r of seen) {
    const t = new Date(r.at).getTime();
    path += `${before && t - before < 16 * 60e3 ? "L" : "M"}${x(r.at).toFixed(1)} ${y(value("temperature", r.temperature!)).toFixed(1)}`;
    before = t;
  }
  const ticks = [0, 6, 12, 18, 24].map((h) => new Date(end - (24 - h) * 3600e3).toISOString());
  const humidity = s.readings.findLast((r) => r.humidity != null)?.humidity;
  return (
    <figure style={{ margin: 0 }}>
      <Row $between>
        <b>
          {s.name} <small>{s.topic}</small>
        </b>
        <span>
          {s.silent ? <Mark tone="stop">silent</Mark> : last && <b>{told.degrees(last.temperature!, 1)}</b>}
          {!s.silent && humidity != null && <b>, {(humidity * 100).toFixed(0)} %</b>}
        </span>
      </Row>
      {seen.length > 1 ? (
        <svg
          viewBox={`0 0 ${wide} ${high}`}
          width="100%"
          role="img"
          aria-label={`${s.name}, the last day: ${plain(Math.min(...temps), 1)} to ${plain(Math.max(...temps), 1)} ${unit}${limit !== undefined ? `, limit ${plain(limit, 0)} ${unit}` : ""}`}
          style={{ display: "block", maxHeight: 150 }}
        >
          {limit !== undefined && (
            <>
              <path d={`M${left} ${y(limit)}H${wide - 8}`} stroke="var(--brick)" strokeWidth="2" />
              <text x={wide - 10} y={y(limit) - 4} fontSize="12" textAnchor="end" fill="var(--brick)" fontWeight="700">
                limit {plain(limit, 0)} {unit}
              </text>
            </>
          )}
          {[Math.min(...temps), Math.max(...temps)].map((c) => (
            <text key={c} x={left - 6} y={y(c) + 4} fontSize="12" textAnchor="end" fill="var(--g1)">
              {plain(c, 1)}
            </text>
          ))}
          <path d={path} fill="none" stroke="var(--ink)" strokeWidth="2" />
          <path d={`M${left} ${base}H${wide - 8}`} stroke="var(--ink)" />
          {ticks.map((t, i) => (
            <text
              key={t}
              x={x(t)}
              y={high - 6}
              fontSize="12"
              textAnchor={i === 0 ? "start" : i === ticks.length - 1 ? "end" : "middle"}
              fill="var(--g1)"
            >
              {clock(t)}
            </text>
          ))}
        </svg>
      ) : (
        <p>Nothing heard in the last day.</p>
      )}
    </figure>
  );
}
