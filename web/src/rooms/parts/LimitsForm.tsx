// What a run is held against, of a process or of one operation.
import type { Schemas } from "../../contract/types";
import { Row } from "../../ui/parts";
import { Figure } from "./Detail";

type Limits = Schemas["RunLimits"];
type Run = { limits: Limits };

export function LimitsForm({ run, set }: { run: Run; set: (part: Run) => void }) {
  const { limits } = run;
  const limit = (label: string, name: keyof Limits, scale: number, offset = 0) => (
    <Figure
      need
      label={label}
      scale={scale}
      value={(limits[name] ?? 0) + offset}
      set={(x) => x !== undefined && set({ limits: { ...limits, [name]: x - offset } })}
    />
  );
  return (
    <Row $gap={12} style={{ alignItems: "flex-end" }}>
      {limit("Part at most, °C", "maxPart", 1, -273.15)}
      {limit("Ramps at most, K/min", "maxRamp", 60)}
      {limit("Vacuum at least, kPa", "minVacuum", 1e-3)}
      {limit("Degree of cure at least, %", "minCure", 100)}
      {limit("Holds count from, K below", "soakBelow", 1)}
      {limit("Log silent at most, s", "maxGap", 1)}
      <Figure
        label="Air off its band at most, min"
        scale={1 / 60}
        value={limits.maxAirOut || 600}
        set={(x) => set({ limits: { ...limits, maxAirOut: x ?? 0 } })}
      />
    </Row>
  );
}
