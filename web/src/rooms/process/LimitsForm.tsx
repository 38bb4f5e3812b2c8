// What a run is held against, of a process or of one operation.
import type { Schemas } from "../../contract/types";
import { Row } from "../../ui/parts";
import { Figure } from "../master/Detail";

type Limits = Schemas["RunLimits"];
type Run = { limits: Limits };

export function LimitsForm({ run, set }: { run: Run; set: (part: Run) => void }) {
  const { limits } = run;
  const limit = (label: string, name: keyof Limits, scale: number, kelvin = false) => (
    <Figure
      need
      label={label}
      scale={scale}
      kelvin={kelvin}
      value={limits[name] ?? 0}
      set={(x) => x !== undefined && set({ limits: { ...limits, [name]: x } })}
    />
  );
  return (
    <Row $gap={12} style={{ alignItems: "flex-end" }}>
      {limit("Max. part temperature, °C", "maxPart", 1, true)}
      {limit("Max. ramp, K/min", "maxRamp", 60)}
      {limit("Min. vacuum, kPa", "minVacuum", 1e-3)}
      {limit("Min. degree of cure, %", "minCure", 100)}
      {limit("Holds count from, K below", "soakBelow", 1)}
      {limit("Max. gap in the log, s", "maxGap", 1)}
      <Figure
        label="Max. time air out of band, min"
        scale={1 / 60}
        value={limits.maxAirOut || 600}
        set={(x) => set({ limits: { ...limits, maxAirOut: x ?? 0 } })}
      />
    </Row>
  );
}
