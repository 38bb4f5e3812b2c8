// The shortest cycle that meets the limits: sought in pieces, so that the best so far stands on the page and it can be
// stopped; and the map of thickness against dwell.
import { useRef, useState } from "react";
import { client } from "../../app/api";
import { Refused, type Schemas } from "../../contract/types";
import { spell, told } from "../../ui/format";
import { Button, Heading, Mark, Refusal, Row, SelectField, Spoken } from "../../ui/parts";
import { amount } from "./CureOutcome";
import type { Asked, Plan } from "./useForecast";

type State = Schemas["FindState"];
type Cell = Schemas["MapCell"];

/** Something long that is asked for in pieces until it is over or stopped. */
function useLong() {
  const [busy, setBusy] = useState(false);
  const [error, setError] = useState<unknown>(null);
  const stop = useRef<AbortController | null>(null);
  const run = async (piece: (signal: AbortSignal) => Promise<boolean>) => {
    const own = new AbortController();
    stop.current = own;
    setBusy(true);
    setError(null);
    try {
      while (!own.signal.aborted && (await piece(own.signal)));
    } catch (e) {
      if (!own.signal.aborted) setError(e);
    } finally {
      setBusy(false);
    }
  };
  return { busy, error, run, stop: () => stop.current?.abort() };
}

export function Shortest({ asked, take, ready }: { asked: Asked; take: (plan: Plan) => void; ready: boolean }) {
  const long = useLong();
  const [found, setFound] = useState<State | null>(null);
  const seek = () => {
    let search: State | undefined;
    setFound(null);
    void long.run(async (signal) => {
      const { data, error } = await client.POST("/api/forecast/find", {
        body: { ...asked, tries: 40, ...(search ? { search } : {}) },
        signal,
      });
      if (!data) throw new Refused(error);
      search = data;
      setFound(data);
      return !data.settled;
    });
  };
  return (
    <section aria-label="Shortest cycle">
      <Heading>Shortest cycle that meets the limits</Heading>
      <Row $gap={10} style={{ margin: "6px 0" }}>
        {long.busy ? (
          <Button onPress={long.stop}>Stop, keep the best</Button>
        ) : (
          <Button $quiet onPress={seek} why={ready ? "" : "Fill every field."}>
            Find it
          </Button>
        )}
        {found && found.misses === 0 && (
          <Button
            $quiet={long.busy}
            onPress={() => take({ ...asked.plan, recipe: { ...asked.plan.recipe, segments: found.recipe.segments } })}
          >
            Take it: {spell(found.duration)}
          </Button>
        )}
      </Row>
      <Refusal error={long.error} />
      {found && (
        <div role="status">
          <p>
            {found.tried} cycles tried;{" "}
            {found.misses === 0 ? (
              <Mark tone="met">{`${spell(found.duration)}, every limit entered is met`}</Mark>
            ) : (
              <Mark tone="stop">{`none yet meets every limit; the nearest takes ${spell(found.duration)}`}</Mark>
            )}
          </p>
          {found.settled && found.heldBack && (
            <p>
              Held back by {found.heldBack.what}: a minute less of {found.shorter} in that way, and it would be{" "}
              {amount(found.heldBack.kind, found.heldBack.found)}, {found.heldBack.atLeast ? "at least" : "at most"}{" "}
              {amount(found.heldBack.kind, found.heldBack.limit)} asked for.
            </p>
          )}
          {found.settled && <p>Checked once more at a finer step and on a finer grid.</p>}
        </div>
      )}
    </section>
  );
}

const rows = 12;
const columns = 14;

export function CureMap({ asked, section, ready }: { asked: Asked; section: number; ready: boolean }) {
  const long = useLong();
  const layers = asked.plan.sections[section]?.layers ?? [];
  const first = Math.max(
    0,
    layers.findIndex((l) => (l.resin ?? 0) > 0),
  );
  const held = asked.plan.recipe.segments.map((s, k) => ({ s, k })).filter(({ s }) => s.hold > 0);
  const [chosen, setChosen] = useState<number | null>(null);
  const segment = chosen ?? held[0]?.k ?? 0;
  const [cells, setCells] = useState<Cell[][]>([]);
  const draw = () => {
    const thick = layers[first]!.thickness;
    const hold = asked.plan.recipe.segments[segment]!.hold;
    const holds = Array.from({ length: columns }, (_, k) => Math.max(60, Math.round((hold * (k + 1)) / 7 / 60) * 60));
    const thicknesses = Array.from({ length: rows }, (_, k) => (thick * (rows - k)) / 6);
    let row = 0;
    setCells([]);
    void long.run(async (signal) => {
      const { data, error } = await client.POST("/api/forecast/map", {
        body: { ...asked, section, layer: first, thickness: [thicknesses[row]!], segment, holds },
        signal,
      });
      if (!data) throw new Refused(error);
      setCells((before) => [...before, data]);
      return ++row < rows;
    });
  };
  const whys = [...new Set(cells.flat().flatMap((c) => (c.why ? [c.why] : [])))];
  const letter = (c: Cell) => (c.why ? String.fromCharCode(65 + (whys.indexOf(c.why) % 26)) : "✓");
  return (
    <section aria-label="Map of thickness and dwell">
      <Heading>Map: thickness of {layers[first]?.name} against a dwell</Heading>
      <Row $gap={10} style={{ margin: "6px 0", alignItems: "end" }}>
        <SelectField label="Dwell" value={segment} onChange={(e) => setChosen(+e.target.value)}>
          {held.map(({ s, k }) => (
            <option key={k} value={k}>
              segment {k + 1}, {told.degrees(s.target)}
            </option>
          ))}
        </SelectField>
        {long.busy ? (
          <Button onPress={long.stop}>Stop</Button>
        ) : (
          <Button
            $quiet
            onPress={draw}
            why={!ready ? "Fill every field." : held.length === 0 ? "No segment holds." : ""}
          >
            Draw the map
          </Button>
        )}
        {long.busy && (
          <span role="status">
            {cells.length} of {rows} rows
          </span>
        )}
      </Row>
      <Refusal error={long.error} />
      {cells.length > 0 && (
        <>
          <MapCells cells={cells} letter={letter} />
          <small>
            hold in min; ✓ every limit entered is met
            {whys.map((w, k) => `; ${String.fromCharCode(65 + (k % 26))} ${w}`)}
          </small>
        </>
      )}
    </section>
  );
}

/** The map as cells with a letter each. */
function MapCells({ cells, letter }: { cells: Schemas["MapCell"][][]; letter: (c: Schemas["MapCell"]) => string }) {
  return (
    <table style={{ borderCollapse: "collapse", fontSize: 12, tableLayout: "fixed", width: "100%" }}>
      <tbody>
        {cells.map((row) => (
          <tr key={row[0]!.thickness}>
            <th scope="row" style={{ fontWeight: 600, textAlign: "right", paddingRight: 6, width: 62 }}>
              {told.size(row[0]!.thickness, 1)}
            </th>
            {row.map((c) => (
              <td
                key={c.hold}
                title={`${told.size(c.thickness)}, ${spell(c.hold)}: ${c.why ?? "met"}; ${spell(c.duration)}, hottest ${told.degrees(c.hottest)}`}
                style={{
                  textAlign: "center",
                  height: 20,
                  fontWeight: 700,
                  border: "1px solid var(--g4)",
                  background: c.why ? "transparent" : "var(--wash)",
                  color: c.why ? "var(--brick)" : "var(--green)",
                }}
              >
                <span aria-hidden="true">{letter(c)}</span>
                <Spoken>{c.why ?? "met"}</Spoken>
              </td>
            ))}
          </tr>
        ))}
        <tr>
          <th />
          {cells[0]!.map((c) => (
            <th key={c.hold} scope="col" style={{ fontWeight: 600 }}>
              {Math.round(c.hold / 60)}
            </th>
          ))}
        </tr>
      </tbody>
    </table>
  );
}
