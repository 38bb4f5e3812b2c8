// What a cure is held against; an empty field is not asked for.
import { memo } from "react";
import { Heading, NumberField, Row } from "../../ui/parts";
import type { Plan } from "./useForecast";

type Key = Exclude<keyof Plan["limits"], "free">;

const kelvin = { to: (k: number) => k - 273.15, from: (c: number) => c + 273.15 };
const per = (by: number) => ({ to: (v: number) => v * by, from: (v: number) => v / by });

const fields: readonly { key: Key; label: string; to: (v: number) => number; from: (v: number) => number }[] = [
  { key: "maxPart", label: "Hottest, °C", ...kelvin },
  { key: "maxOvershoot", label: "Overshoot, K", ...per(1) },
  { key: "maxSpread", label: "Spread, K", ...per(1) },
  { key: "maxRamp", label: "Ramp, K/min", ...per(60) },
  { key: "minCure", label: "Cure at least, %", ...per(100) },
  { key: "minGlass", label: "Tg at least, °C", ...kelvin },
  { key: "maxPressure", label: "Pressure on core, kPa", ...per(1e-3) },
  { key: "thin", label: "Flows below, Pa·s", ...per(1) },
  { key: "humidity", label: "Room’s humidity, %", ...per(100) },
  { key: "openBelow", label: "Opened below, °C", ...kelvin },
];

/** What few parts need. */
const more: typeof fields = [
  { key: "edgePressure", label: "On its edges without pads, kPa", ...per(1e-3) },
  { key: "bladder", label: "Bladder presses over, m²", ...per(1) },
  { key: "maxApart", label: "Apart once cool, mm", ...per(1e3) },
  { key: "length", label: "over a length of, m", ...per(1) },
  { key: "toolGrows", label: "Tool grows, 10⁻⁶/K", ...per(1e6) },
  { key: "partGrows", label: "Part grows, 10⁻⁶/K", ...per(1e6) },
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
  const field = (f: (typeof fields)[number], width: number) => (
    <div key={f.key} style={{ width }}>
      <NumberField
        label={f.label}
        off={!change}
        value={limits[f.key] ? +f.to(limits[f.key]!).toPrecision(8) : NaN}
        onChange={(v) => set({ [f.key]: Number.isNaN(v) ? 0 : f.from(v) })}
      />
    </div>
  );
  return (
    <section aria-label="Limits">
      <Heading>Limits: an empty one is not asked for</Heading>
      <Row $top $gap={10} style={{ marginTop: 6 }}>
        {fields.map((f) => field(f, 126))}
        <label style={{ display: "flex", gap: 8, alignItems: "center", minHeight: 44 }}>
          <input
            type="checkbox"
            style={{ width: 22, height: 22 }}
            checked={limits.free ?? false}
            disabled={!change}
            onChange={(e) => set({ free: e.target.checked })}
          />
          stands free: the glass transition stays ahead
        </label>
      </Row>
      <details open={more.some((f) => limits[f.key])}>
        <summary style={{ minHeight: 40, display: "list-item", alignContent: "center" }}>
          Core edges, bladder, cool-down
        </summary>
        <Row $top $gap={10}>
          {more.map((f) => field(f, 150))}
        </Row>
      </details>
    </section>
  );
}
