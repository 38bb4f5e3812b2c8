// The laminate in full: its zones, what another choice would do, what a load
// does to the plies, how far the warp may stray.
import { useState } from "react";
import type { Schemas } from "../../contract/types";
import { angle, told } from "../../ui/format";
import { figure, labelIn, unitName } from "../../ui/units";
import { Button, Heading, Mark, NumberField, Row, SelectField, Stack, Table } from "../../ui/parts";
import { itemLabels, type Master } from "../master/edits";
import { LoadCase } from "./LoadCase";
import type { Asked, Reply } from "../master/useMaster";
import { Figures, zoneName } from "./Analysis";

export function Laminate({
  doc,
  change,
  reply,
  asked,
  ask,
}: {
  doc: Master;
  change?: (m: Master) => void;
  reply: Reply | null;
  asked: Asked;
  ask: (a: Asked) => void;
}) {
  const worked = reply?.analysis;
  const labels = itemLabels(doc);
  if (!reply) return <p>Calculating …</p>;
  if (!worked) return <p>Nothing to calculate yet: the stack is empty, or has a fault.</p>;
  const zone = asked.zone ?? 0;
  return (
    <Stack $gap={18}>
      <ZonesAndOutlines worked={worked} zone={zone} ask={ask} asked={asked} />
      <WhatIf doc={doc} labels={labels} reply={reply} asked={asked} ask={ask} />
      <LoadCase
        doc={doc}
        {...(change ? { change } : {})}
        zone={worked.zones[zone]}
        name={zoneName(zone)}
        reply={reply}
        asked={asked}
        ask={ask}
      />
    </Stack>
  );
}

function Matrices({ of }: { of?: Schemas["LaminateOut"] }) {
  if (!of) return null;
  const cell = (v: number) => (Math.abs(v) < 1e-9 ? "0" : v.toPrecision(4));
  return (
    <details>
      <summary style={{ cursor: "pointer", padding: "6px 0" }}>A in kN/mm, B in kN, D in N m</summary>
      <Row $gap={28} $top>
        {(
          [
            ["A", of.a, 1e-6],
            ["B", of.b, 1e-3],
            ["D", of.d, 1],
          ] as const
        ).map(([name, m, scale]) => {
          const size = Math.max(...m.flat().map((v) => Math.abs(v)));
          return (
            <table
              key={name}
              aria-label={name}
              style={{ borderLeft: "2px solid var(--ink)", borderRight: "2px solid var(--ink)" }}
            >
              <tbody>
                {m.map((r, i) => (
                  <tr key={i}>
                    {r.map((v, j) => (
                      <td key={j} style={{ textAlign: "right", padding: "2px 10px" }}>
                        {Math.abs(v) < 1e-9 * size ? "0" : cell(v * scale)}
                      </td>
                    ))}
                  </tr>
                ))}
              </tbody>
            </table>
          );
        })}
      </Row>
    </details>
  );
}

/** A change that is only asked about, beside the present. */
function WhatIf({
  doc,
  labels,
  reply,
  asked,
  ask,
}: {
  doc: Master;
  labels: Map<string, string>;
  reply: Reply;
  asked: Asked;
  ask: (a: Asked) => void;
}) {
  const plies = doc.stages.flatMap((s) => s.items).filter((i) => i.kind === "ply");
  const [key, setKey] = useState("");
  const [by, setBy] = useState(2);
  const chosen = key || plies[0]?.key || "";
  const w = asked.whatIf ?? {};
  const label = [
    ...(w.flip ?? []).map((k) => `ply ${labels.get(k)} turned over`),
    ...(w.drop ?? []).map((k) => `ply ${labels.get(k)} left out`),
    ...Object.entries(w.turn ?? {}).map(([k, v]) => `ply ${labels.get(k)} off by ${angle(v)}`),
  ];
  return (
    <div>
      <Heading>What if</Heading>
      <Row $gap={10} style={{ alignItems: "flex-end" }}>
        <SelectField label="Ply" value={chosen} onChange={(e) => setKey(e.target.value)}>
          {plies.map((p) => (
            <option key={p.key} value={p.key}>
              {labels.get(p.key)} · {angle(p.angleDeg)}
            </option>
          ))}
        </SelectField>
        <Button $quiet onPress={() => ask({ ...asked, whatIf: { ...w, flip: [...(w.flip ?? []), chosen] } })}>
          Turn over
        </Button>
        <Button $quiet onPress={() => ask({ ...asked, whatIf: { ...w, drop: [...(w.drop ?? []), chosen] } })}>
          Leave out
        </Button>
        <div style={{ width: 84 }}>
          <NumberField label="Off by, °" value={by} onChange={setBy} min={-180} max={180} />
        </div>
        <Button
          $quiet
          why={Number.isNaN(by) ? "By how much?" : ""}
          onPress={() => ask({ ...asked, whatIf: { ...w, turn: { ...w.turn, [chosen]: by } } })}
        >
          Lay off its angle
        </Button>
        {label.length > 0 && (
          <Button $quiet onPress={() => ask({ ...asked, whatIf: undefined })}>
            Clear
          </Button>
        )}
      </Row>
      {label.length > 0 && (
        <>
          <p role="status">
            Asked: {label.join("; ")}. Nothing is changed by it.
            {reply.whatIf && reply.analysis && <Broken now={reply.analysis} then={reply.whatIf} />}
          </p>
          <Figures
            zones={2}
            columns={[
              { name: "As written", of: reply.analysis ?? undefined },
              { name: "What if", of: reply.whatIf ?? undefined },
            ]}
          />
        </>
      )}
    </div>
  );
}

function Broken({ now, then }: { now: Schemas["AnalysisView"]; then: Schemas["AnalysisView"] }) {
  const more = then.findings.filter((f) => !now.findings.some((g) => g.message === f.message));
  return more.map((f) => (
    <span key={f.message}>
      <br />
      <Mark tone="stop">{f.message}</Mark>
    </span>
  ));
}

/** Zones of one stack each, the outlines, and what was found. */
function ZonesAndOutlines({
  worked,
  zone,
  ask,
  asked,
}: {
  worked: Schemas["AnalysisView"];
  zone: number;
  ask: (a: Asked) => void;
  asked: Asked;
}) {
  return (
    <div>
      <Heading>Zones of one stack each</Heading>
      <Table>
        <thead>
          <tr>
            <th>Zone</th>
            <th>Layers</th>
            <th className="n">{unitName("area")}</th>
            <th className="n">{unitName("size")}</th>
            <th className="n">kg/m²</th>
            <th className="n">Ex / Ey / Gxy, GPa</th>
            <th className="n">Ex / Ey in bending</th>
            <th className="n">{labelIn("Warp, mm")}</th>
          </tr>
        </thead>
        <tbody>
          {worked.zones.map((z, k) => (
            <tr key={k} className={k === zone ? "on" : undefined}>
              <td>
                <Button $quiet $small onPress={() => ask({ ...asked, zone: k })} aria-pressed={k === zone}>
                  {zoneName(k)}
                </Button>
              </td>
              <td>{z.label}</td>
              <td className="n">{figure("area", z.area, 4)}</td>
              <td className="n">{z.analysis ? figure("size", z.analysis.thickness, 2) : ""}</td>
              <td className="n">{z.analysis?.arealMass.toFixed(2)}</td>
              <td className="n">
                {z.analysis &&
                  [z.analysis.ex, z.analysis.ey, z.analysis.gxy].map((e) => (e / 1e9).toFixed(1)).join(" / ")}
              </td>
              <td className="n">
                {z.analysis && [z.analysis.efx, z.analysis.efy].map((e) => (e / 1e9).toFixed(1)).join(" / ")}
              </td>
              <td className="n">{z.analysis && figure("size", z.analysis.bow, 2)}</td>
            </tr>
          ))}
        </tbody>
      </Table>
      <small>
        {worked.more > 0 && `${worked.more} smaller zones are not listed; their findings are. `}
        Areas add up to {told.area(worked.area, 4)}. Warp over {told.run(worked.span)} from{" "}
        {told.rise(-worked.deltaT, 0)} of cooling, each zone as a plate of its own; the part follows its largest.
      </small>
      {worked.zones[zone]?.anglesDeg && (
        <p style={{ margin: "6px 0" }}>
          <b>Over its curved surface</b> the layers of zone {zoneName(zone)} lie at{" "}
          {worked.zones[zone].anglesDeg.map((a) => angle(a)).join(", ")}, in lay order; stiffness and warp follow from
          that.
        </p>
      )}
      {worked.zones[zone]?.analysis?.sandwich && (
        <p>
          <b>Sandwich.</b> Skins {told.size(worked.zones[zone].analysis.sandwich.apart, 2)} apart; shear stiffness{" "}
          {(worked.zones[zone].analysis.sandwich.shearX / 1e3).toFixed(0)} and{" "}
          {(worked.zones[zone].analysis.sandwich.shearY / 1e3).toFixed(0)} kN/m; over {told.run(worked.span)} shear
          deflects {worked.zones[zone].analysis.sandwich.deflects.toFixed(2)} times as far as bending.
        </p>
      )}
      <Matrices of={worked.zones[zone]?.analysis} />
    </div>
  );
}
