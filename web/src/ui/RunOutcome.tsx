// What the limits make of a cure run.
import { Mark } from "./parts";

/** What a silent sensor leaves open is neither met nor missed. */
export function RunOutcome({ of }: { of: { met?: boolean; notProven?: boolean } }) {
  if (of.met) return <Mark tone="met">every limit met</Mark>;
  return <Mark tone="stop">{of.notProven ? "not proven" : "a limit not met"}</Mark>;
}
