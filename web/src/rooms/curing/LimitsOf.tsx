// What a cure is held against; an empty field is not asked for.
import { memo } from "react";
import { Heading, Row } from "../../ui/parts";
import { Figures, kelvin, per, type Figure } from "./Figures";
import type { Plan } from "./useForecast";

const fields: readonly Figure<Plan["limits"]>[] = [
  { key: "maxPart", label: "Max. temperature, °C", ...kelvin },
  { key: "maxOvershoot", label: "Overshoot, K", ...per(1) },
  { key: "maxSpread", label: "Spread, K", ...per(1) },
  { key: "maxRamp", label: "Ramp, K/min", ...per(60) },
  { key: "minCure", label: "Cure at least, %", ...per(100) },
  { key: "minGlass", label: "Tg at least, °C", ...kelvin },
  { key: "maxPressure", label: "Pressure on core, kPa", ...per(1e-3) },
  { key: "thin", label: "Flow limit (viscosity), Pa·s", ...per(1) },
  { key: "humidity", label: "Room’s humidity, %", ...per(100) },
  { key: "openBelow", label: "Opened below, °C", ...kelvin },
];

/** What few parts need. */
const more: typeof fields = [
  { key: "edgePressure", label: "Pressure on edges without pads, kPa", ...per(1e-3) },
  { key: "bladder", label: "Bladder area, m²", ...per(1) },
  { key: "maxApart", label: "Difference in length once cool, mm", ...per(1e3) },
  { key: "length", label: "over a length of, m", ...per(1) },
  { key: "toolGrows", label: "Tool expansion, 10⁻⁶/K", ...per(1e6) },
  { key: "partGrows", label: "Part expansion, 10⁻⁶/K", ...per(1e6) },
];

export const LimitsOf = memo(LimitsOfPlan);

function LimitsOfPlan({
  limits,
  change,
}: {
  limits: Plan["limits"];
  change: ((limits: Plan["limits"]) => void) | undefined;
}) {
  const set = (part: Partial<Plan["limits"]>) => change?.({ ...limits, ...part });
  return (
    <section aria-label="Limits">
      <Heading>Limits; empty: none</Heading>
      <Row $top $gap={10} style={{ marginTop: 6 }}>
        <Figures of={limits} fields={fields} width={150} change={change && set} />
        <label style={{ display: "flex", gap: 8, alignItems: "center", minHeight: 44 }}>
          <input
            type="checkbox"
            style={{ width: 22, height: 22 }}
            checked={limits.free ?? false}
            disabled={!change}
            onChange={(e) => set({ free: e.target.checked })}
          />
          free-standing: the glass transition stays ahead
        </label>
      </Row>
      <details open={more.some((f) => limits[f.key])}>
        <summary style={{ minHeight: 40, display: "list-item", alignContent: "center" }}>
          Core edges, bladder, cool-down
        </summary>
        <Row $top $gap={10}>
          <Figures of={limits} fields={more} width={150} change={change && set} />
        </Row>
      </details>
    </section>
  );
}
