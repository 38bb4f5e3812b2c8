// A segment of a recipe in words.
import type { Schemas } from "../contract/types";
import { percent, spell, told } from "./format";
import { plain } from "./units";

export function SegmentRead({ s }: { s: Schemas["Segment"] }) {
  const waits = [
    s.waitPart && `the coldest part sensor has ${told.degrees(s.waitPart)}`,
    s.waitCure && `the lagging part is cured to ${percent(s.waitCure)} %`,
    s.waitThin && `its viscosity is ${plain(s.waitThin, 0)} Pa·s or less`,
    s.waitThick && `the viscosity of the leading part is ${plain(s.waitThick, 0)} Pa·s or more`,
    s.waitTurn && "after minimum viscosity (lagging place)",
    s.waitCool && `the hottest part sensor has cooled to ${told.degrees(s.waitCool)}`,
  ].filter(Boolean);
  return (
    <>
      to <b>{told.degrees(s.target)}</b> at {told.rise(s.rate * 60)}/min
      {waits.length > 0 && `, until ${waits.join(" and ")}`}
      {s.hold > 0 && (
        <>
          , hold <b>{spell(s.hold)}</b>
        </>
      )}
      {s.pressure ? `, pressure ${told.pressure(s.pressure)}${s.withTool ? " as the part warms" : ""}` : ""}
      {s.vacuum ? `, vacuum ${told.vacuum(s.vacuum, 0)}` : ""}
      {s.vent ? `, bag vented at ${told.pressure(s.vent)}` : ""}
    </>
  );
}
