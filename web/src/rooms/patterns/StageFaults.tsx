// What keeps a stage from being laid or rolled.
import { Mark } from "../../ui/parts";
import { said } from "../../ui/units";
import type { Schemas } from "../../contract/types";

export function StageFaults({ faults }: { faults: Schemas["Fault"][] }) {
  return faults.map((f) => (
    <p key={f.key + f.field + f.message} role="alert" style={{ margin: 0 }}>
      <Mark tone="stop">{said(f.message)}</Mark>
    </p>
  ));
}
