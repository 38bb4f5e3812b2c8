// Which angle would give a tube the stiffness that is wanted: the chosen sheets turned through
// all angles, as a chart and in words.
import { useId } from "react";
import type { Schemas } from "../../contract/types";
import { plain } from "../../ui/units";
import { Row, Stack } from "../../ui/parts";
import { Figure } from "../master/Detail";

export type Sought = { sweep?: string[]; bending?: number; torsion?: number };

export function AngleFor({
  reply,
  names,
  sought,
  seek,
}: {
  reply: Schemas["RolledReply"];
  names: string[];
  sought: Sought;
  seek: (s: Sought) => void;
}) {
  const id = useId();
  const chosen = sought.sweep ?? [];
  const swept = reply.rolled?.swept ?? [];
  const found = (all: number[], what: string) =>
    all.length === 0
      ? `No angle of these sheets gives that ${what}.`
      : `That ${what} at ${all.map((a) => `±${plain(a, 1)}°`).join(" or ")}.`;
  return (
    <details>
      <summary style={{ fontWeight: 700, minHeight: 32, cursor: "pointer" }}>Angle for a stiffness</summary>
      <Stack $gap={10}>
        <fieldset style={{ border: 0, padding: 0, margin: 0 }}>
          <legend>Sheets whose angle may change; negative angles change the opposite way</legend>
          <Row $gap={12} style={{ flexWrap: "wrap" }}>
            {reply.keys.map((key, k) => (
              <label key={key} style={{ minHeight: 32, display: "inline-flex", alignItems: "center", gap: 6 }}>
                <input
                  type="checkbox"
                  checked={chosen.includes(key)}
                  onChange={(e) =>
                    seek({ ...sought, sweep: e.target.checked ? [...chosen, key] : chosen.filter((c) => c !== key) })
                  }
                />
                {names[k]}
              </label>
            ))}
          </Row>
        </fieldset>
        <Row $gap={12} $top>
          <Figure
            label="Bending EI wanted, N m²"
            scale={1}
            min={0}
            value={sought.bending}
            set={(v) => seek({ ...sought, bending: v })}
          />
          <Figure
            label="Torsion GJ wanted, N m²"
            scale={1}
            min={0}
            value={sought.torsion}
            set={(v) => seek({ ...sought, torsion: v })}
          />
        </Row>
        {swept.length > 0 && (
          <>
            <p role="status" style={{ margin: 0 }}>
              {sought.bending ? found(reply.bending, "EI") : ""} {sought.torsion ? found(reply.torsion, "GJ") : ""}
            </p>
            <Swept id={id} swept={swept} />
          </>
        )}
      </Stack>
    </details>
  );
}

function Swept({ id, swept }: { id: string; swept: Schemas["RolledSwept"][] }) {
  const [w, h] = [480, 170];
  const most = {
    ei: Math.max(...swept.map((s) => s.bending[0]!)),
    gj: Math.max(...swept.map((s) => s.torsion)),
  };
  const x = (deg: number) => 40 + (deg / 90) * (w - 60);
  const y = (share: number) => h - 26 - share * (h - 44);
  const line = (of: (s: Schemas["RolledSwept"]) => number) =>
    swept.map((s, k) => `${k ? "L" : "M"}${x(s.angleDeg).toFixed(1)},${y(of(s)).toFixed(1)}`).join("");
  const ei = (s: Schemas["RolledSwept"]) => s.bending[0]! / most.ei;
  const gj = (s: Schemas["RolledSwept"]) => s.torsion / most.gj;
  return (
    <svg viewBox={`0 0 ${w} ${h}`} width="100%" role="img" aria-labelledby={id}>
      <title id={id}>
        {`EI up to ${plain(most.ei, 0)} N m², GJ up to ${plain(most.gj, 0)} N m², by the angle of the chosen sheets`}
      </title>
      <path d={`M40,${y(0)}H${w - 20}M40,${y(0)}V${y(1)}`} stroke="var(--ink)" strokeWidth={1.5} fill="none" />
      {[0, 15, 30, 45, 60, 75, 90].map((d) => (
        <g key={d}>
          <path d={`M${x(d)},${y(0)}v5`} stroke="var(--ink)" />
          <text x={x(d)} y={h - 7} fontSize={12.5} textAnchor="middle" fill="var(--ink)">
            {d}°
          </text>
        </g>
      ))}
      <path d={line(ei)} fill="none" stroke="var(--ink)" strokeWidth={2.5} />
      <path d={line(gj)} fill="none" stroke="var(--blue)" strokeWidth={2.5} strokeDasharray="7 4" />
      <text x={x(4)} y={y(ei(swept[4]!)) - 6} fontSize={13} fill="var(--ink)">
        EI, at most {plain(most.ei, 0)} N m²
      </text>
      <text x={x(46)} y={y(gj(swept[46]!)) - 6} fontSize={13} fill="var(--blue)">
        GJ, at most {plain(most.gj, 0)} N m²
      </text>
    </svg>
  );
}
