// What a load is expected to feel: each place, what to look at, what was assumed.
import type { Schemas } from "../contract/types";
import { percent, spell, told } from "./format";
import { Mark, Table } from "./parts";
import { figure, said, unitName } from "./units";

export function SimulatedPlaces({ f }: { f: Schemas["CureSimulation"] }) {
  return (
    <>
      <Table aria-label="Expected at each place">
        <thead>
          <tr>
            <th>Place</th>
            <th className="n">Thick, {unitName("size")}</th>
            <th className="n">Hottest</th>
            <th className="n">Gelled after</th>
            <th className="n">Cured, %</th>
            <th className="n">Tg</th>
          </tr>
        </thead>
        <tbody>
          {f.places.map((p) => (
            <tr key={p.name}>
              <td>{p.name}</td>
              <td className="n">{figure("size", p.thickness, 1)}</td>
              <td className="n">{told.degrees(p.hottest)}</td>
              <td className="n">{p.gelled === undefined ? "–" : spell(p.gelled)}</td>
              <td className="n">{percent(p.cure, 1)}</td>
              <td className="n">{p.glass === undefined ? "–" : told.degrees(p.glass)}</td>
            </tr>
          ))}
        </tbody>
      </Table>
      {f.findings.map((x) => (
        <p key={x.rule + x.message}>
          <Mark tone="attend">{said(x.message)}</Mark> {said(x.advice)}
        </p>
      ))}
      {f.notes.length > 0 && <small>Assumed: {f.notes.map(said).join("; ")}.</small>}
    </>
  );
}
