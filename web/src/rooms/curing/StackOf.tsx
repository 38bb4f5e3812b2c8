// What lies in the oven: the sections of a part, each a stack of layers.
import { memo, useState } from "react";
import { api, client } from "../../app/api";
import { Refused, type Schemas } from "../../contract/types";
import { Button, Heading, Mark, NumberField, Refusal, Row, SelectField, Table, TextField } from "../../ui/parts";
import { labelIn } from "../../ui/units";
import type { JSX } from "react";

type Section = Schemas["CureSection"];
type Layer = Schemas["CureLayer"];

/** Memoized, as its fields are many: a curve that comes in leaves them as they are. */
export const StackOf = memo(StackOfPlan);

function StackOfPlan({
  sections,
  change,
  chosen,
  choose,
  take,
}: {
  sections: Section[];
  change: ((sections: Section[]) => void) | undefined;
  chosen: number;
  choose: (k: number) => void;
  /** A part's stack with the resin of its plies. */
  take: (sections: Section[], resinId: number | undefined) => void;
}) {
  const usual = api.useQuery("get", "/api/layers");
  const parts = api.useQuery("get", "/api/parts");
  const [all, setAll] = useState(false);
  const [notes, setNotes] = useState<string[]>([]);
  const [error, setError] = useState<unknown>(null);
  const ofPart = async (code: string) => {
    setNotes([]);
    setError(null);
    const { data, error: refused } = await client.GET("/api/parts/{code}/stack", { params: { path: { code } } });
    if (!data) return setError(new Refused(refused));
    setNotes(data.notes);
    take(data.sections, data.resinId);
  };
  const off = !change;
  const s = sections[chosen]!;
  const put = (part: Partial<Section>) => change?.(sections.map((x, k) => (k === chosen ? { ...x, ...part } : x)));
  const layer = (k: number, part: Partial<Layer>) =>
    put({ layers: s.layers.map((l, n) => (n === k ? { ...l, ...part } : l)) });
  const num = (k: number, label: string, v: number, then: (v: number) => Partial<Layer>) => (
    <div style={{ width: 78 }}>
      <NumberField
        plain
        need
        off={off}
        label={`${s.layers[k]!.name}: ${label}`}
        value={+v.toPrecision(7)}
        onChange={(n) => layer(k, then(n))}
      />
    </div>
  );
  const add = (name: string) => {
    const of = usual.data?.find((u) => u.name === name);
    if (!of) return;
    const cures = of.resin ? { name: "plies", thickness: 0.002 } : { thickness: 0.004 };
    put({ layers: [...s.layers, { ...of, ...cures }] });
  };
  const side = (label: string, key: "below" | "above") => (
    <SideChoice label={label} s={s} face={key} off={off} put={put} />
  );
  return (
    <section aria-label="Stacks in it">
      <SectionChoice sections={sections} chosen={chosen} choose={choose} change={change} s={s} />
      <LayerTable all={all} s={s} off={off} layer={layer} num={num} put={put} />
      <Row $gap={10} style={{ marginTop: 8 }}>
        {!off && (
          <SelectField label="Add a layer on top" value="" onChange={(e) => add(e.target.value)}>
            <option value="">choose</option>
            {usual.data?.map((u) => (
              <option key={u.name} value={u.name}>
                {u.name}
              </option>
            ))}
          </SelectField>
        )}
        {side("Heat from below", "below")}
        {side("Heat from above", "above")}
        <AreaField off={off} s={s} put={put} />
        <Button $quiet $small onPress={() => setAll(!all)}>
          {all ? "Only the thicknesses" : "All figures"}
        </Button>
      </Row>
      {!off && (
        <div style={{ marginTop: 8 }}>
          <SelectField
            label="Or the stack of a part, from its master"
            value=""
            onChange={(e) => void ofPart(e.target.value)}
          >
            <option value="">choose</option>
            {parts.data?.map((p) => (
              <option key={p.code} value={p.code}>
                {p.number} {p.name}
              </option>
            ))}
          </SelectField>
          <Refusal error={error} />
          {notes.map((n) => (
            <p key={n}>
              <Mark tone="attend">{n}</Mark>
            </p>
          ))}
        </div>
      )}
    </section>
  );
}

/** The layers of a section, from the face below up. */
function LayerTable({
  all,
  s,
  off,
  layer,
  num,
  put,
}: {
  all: boolean;
  s: Schemas["CureSection"];
  off: boolean;
  layer: (k: number, part: Partial<Schemas["CureLayer"]>) => undefined | void;
  num: (k: number, label: string, v: number, then: (v: number) => Partial<Schemas["CureLayer"]>) => JSX.Element;
  put: (part: Partial<Schemas["CureSection"]>) => undefined | void;
}) {
  return (
    <Table>
      <LayerHead all={all} />
      <tbody>
        {s.layers.map((l, k) => (
          <tr key={k}>
            <td>
              {off || !all ? (
                l.name
              ) : (
                <TextField
                  aria-label={`Layer ${k + 1}`}
                  label=""
                  value={l.name}
                  onChange={(name) => layer(k, { name })}
                />
              )}
              {(l.resin ?? 0) > 0 && !all && <small> cures</small>}
            </td>
            <td>{num(k, "thickness, mm", l.thickness * 1e3, (v) => ({ thickness: v / 1e3 }))}</td>
            {all && <td>{num(k, "density, kg/m³", l.density, (v) => ({ density: v }))}</td>}
            {all && <td>{num(k, "specific heat", l.specific, (v) => ({ specific: v }))}</td>}
            {all && <td>{num(k, "conductivity", l.conductivity, (v) => ({ conductivity: v }))}</td>}
            {all && <td>{num(k, "resin, %", (l.resin ?? 0) * 100, (v) => ({ resin: v / 100 }))}</td>}
            {all && (
              <td>
                {num(k, "change of specific heat, %/K", (l.specificByT ?? 0) * 100, (v) => ({
                  specificByT: v / 100,
                }))}
              </td>
            )}
            {all && (
              <td>
                {num(k, "change of conductivity, %/K", (l.conductivityByT ?? 0) * 100, (v) => ({
                  conductivityByT: v / 100,
                }))}
              </td>
            )}
            {all && <td>{num(k, "contact below, m²K/kW", (l.contact ?? 0) * 1e3, (v) => ({ contact: v / 1e3 }))}</td>}
            {all && <td>{num(k, "ribs, %", (l.ribs ?? 0) * 100, (v) => ({ ribs: v / 100 }))}</td>}
            <td>
              {!off && s.layers.length > 1 && (
                <Button
                  $quiet
                  $small
                  aria-label={`Remove ${l.name} out`}
                  onPress={() => put({ layers: s.layers.filter((_, n) => n !== k) })}
                >
                  ✕
                </Button>
              )}
            </td>
          </tr>
        ))}
      </tbody>
    </Table>
  );
}

/** Which section is looked at, and what it is called. */
function SectionChoice({
  sections,
  chosen,
  choose,
  change,
  s,
}: {
  sections: Schemas["CureSection"][];
  chosen: number;
  choose: (k: number) => void;
  change: ((sections: Schemas["CureSection"][]) => void) | undefined;
  s: Schemas["CureSection"];
}) {
  return (
    <Row $between>
      <Heading>Stacks in it</Heading>
      <Row $gap={8}>
        {sections.length > 1 && (
          <SelectField label="Section" value={chosen} onChange={(e) => choose(+e.target.value)}>
            {sections.map((x, k) => (
              <option key={k} value={k}>
                {x.name}
              </option>
            ))}
          </SelectField>
        )}
        {change && (
          <Button
            $quiet
            $small
            onPress={() => {
              change([...sections, { ...s, name: `${s.name} ${sections.length + 1}` }]);
              choose(sections.length);
            }}
          >
            Add a section
          </Button>
        )}
        {change && sections.length > 1 && (
          <Button
            $quiet
            $small
            onPress={() => {
              change(sections.filter((_, k) => k !== chosen));
              choose(0);
            }}
          >
            Take {s.name} out
          </Button>
        )}
      </Row>
    </Row>
  );
}

/** The head of the layers. */
function LayerHead({ all }: { all: boolean }) {
  return (
    <thead>
      <tr>
        <th>From the face below up</th>
        <th>{labelIn("Thick, mm")}</th>
        {all && <th>kg/m³</th>}
        {all && <th>J/(kg K)</th>}
        {all && <th>W/(m K)</th>}
        {all && <th>Resin, %</th>}
        {all && <th title="Change of the specific heat by temperature">c, %/K</th>}
        {all && <th title="Change of the conductivity by temperature">k, %/K</th>}
        {all && <th title="Resistance to heat on its lower side">Below, m²K/kW</th>}
        {all && <th title="Mass that ribs add, as a part of its own">Ribs, %</th>}
        <th />
      </tr>
    </thead>
  );
}

/** The area of all of it in the load. */
function AreaField({
  off,
  s,
  put,
}: {
  off: boolean;
  s: Schemas["CureSection"];
  put: (part: Partial<Schemas["CureSection"]>) => undefined | void;
}) {
  return (
    <div style={{ width: 112 }}>
      <NumberField
        label="Area, m²"
        off={off}
        min={0}
        value={s.area || NaN}
        onChange={(v) => put({ area: Number.isNaN(v) ? 0 : v })}
      />
    </div>
  );
}

/** How heat comes to a face. */
function SideChoice({
  label,
  s,
  face,
  off,
  put,
}: {
  label: string;
  s: Schemas["CureSection"];
  face: "above" | "below";
  off: boolean;
  put: (part: Partial<Schemas["CureSection"]>) => undefined | void;
}) {
  return (
    <SelectField label={label} value={s[face] ?? ""} disabled={off} onChange={(e) => put({ [face]: e.target.value })}>
      <option value="">the air</option>
      <option value="platen">a platen</option>
      <option value="shut">nothing</option>
    </SelectField>
  );
}
