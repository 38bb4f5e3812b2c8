// Two revisions beside each other, item by item, in the drawing and in what is
// worked out; and the open builds that the change touches.
import { useState } from "react";
import { api } from "../../app/api";
import type { Schemas } from "../../contract/types";
import { angle } from "../../ui/format";
import { layersOf } from "../../ui/layers";
import { Heading, Loading, Mark, Refusal, Row, SelectField, Stack, Table } from "../../ui/parts";
import { BuildLinks, useBuilds } from "./Actions";
import { PlanView } from "./PlanView";
import { takes } from "../route/RouteDrawing";
import { Figures } from "./Analysis";
import type { JSX } from "react";

type Item = Schemas["Item"];

const words: Record<string, string> = {
  angleDeg: "angle",
  faceUp: "face",
  materialId: "material",
  turnDeg: "turn",
  joinWidth: "overlap",
  flat: "flat",
  wrap: "wrapping",
  "rolled.width": "mandrel",
  "rolled.lastWidth": "mandrel at its last end",
  "rolled.length": "length",
  after: "waits for",
  setUp: "set-up",
  unattended: "unattended",
  fields: "records",
  second: "second person",
  heat: "recipe and limits of its run",
  closing: "bag",
};

export function DifferencePage({ v }: { v: Schemas["RevisionView"] }) {
  const [from, setFrom] = useState(v.against ?? v.letter);
  const [to, setTo] = useState(v.letter);
  const d = api.useQuery("get", "/api/parts/{code}/difference", {
    params: { path: { code: v.part.code }, query: { from, to } },
  });
  const open = useBuilds(v.part.code, from, true);
  const materials = api.useQuery("get", "/api/materials");
  const named = (i: Item) =>
    [...(d.data?.fromDrawn.layers ?? []), ...(d.data?.toDrawn.layers ?? [])].find((l) => l.materialId === i.materialId)
      ?.material ??
    materials.data?.find((m) => m.id === i.materialId)?.name ??
    "";
  const cells = (i: Item | undefined, label: string | undefined) => (
    <ItemCells i={i} label={label} material={i ? named(i) : ""} />
  );
  const touched = (side: "was" | "is") =>
    (d.data?.lines ?? []).filter((l) => (!l.was || !l.is || l.fields.length > 0) && l[side]).map((l) => l[side]!.key);
  const lines = d.data?.lines ?? [];
  const differing = lines.filter((l) => !l.was || !l.is || l.fields.length > 0).length;
  return (
    <Stack $gap={14}>
      <Row $gap={12} style={{ alignItems: "flex-end" }}>
        <RevisionChoice label="Revision" letter={from} choose={setFrom} letters={v.letters} />
        <RevisionChoice label="against" letter={to} choose={setTo} letters={v.letters} />
        <b role="status">
          {d.data && (differing === 0 ? "Same stack" : `${differing} of ${lines.length} items differ`)}
        </b>
        {(d.data?.process.length ?? 0) > 0 && <span>Process: {d.data!.process.join(", ")}</span>}
      </Row>
      {!d.data ? (
        <Loading error={d.error} />
      ) : (
        <>
          <Refusal error={open.error} />
          {open.data && open.data.length > 0 && (
            <p>
              <Mark tone="attend">Open builds to {from}, which a new revision does not change:</Mark>{" "}
              <BuildLinks builds={open.data} />
            </p>
          )}
          <Row $gap={20} $top>
            {(
              [
                [from, d.data.fromDrawn, "was"],
                [to, d.data.toDrawn, "is"],
              ] as const
            ).map(([letter, drawing, side]) => (
              <SideDrawn key={side} side={side} letter={letter} drawing={drawing} touched={touched} />
            ))}
          </Row>
          <DifferenceTable from={from} to={to} lines={lines} cells={cells} />
          {d.data.stages.length > 0 && (
            <p>
              Stages that differ:{" "}
              {d.data.stages
                .map((s) => `${s.name} (${s.fields.map((f) => words[f] ?? f.replace("rolled.", "")).join(", ")})`)
                .join("; ")}
            </p>
          )}
          <RouteDifference from={from} to={to} lines={d.data.route} />
          <Heading>Calculated</Heading>
          <Figures
            columns={[
              { name: from, of: d.data.fromWorked },
              { name: to, of: d.data.toWorked },
            ]}
          />
        </>
      )}
    </Stack>
  );
}

/** An item of one revision, or nothing where it has none. */
function ItemCells({ i, label, material }: { i: Item | undefined; label: string | undefined; material: string }) {
  if (!i) return <td colSpan={5} />;
  return (
    <>
      <td>
        <b>{label}</b>
      </td>
      <td>{material || i.name}</td>
      <td className="n">{i.kind === "ply" ? angle(i.angleDeg) : ""}</td>
      <td>{i.outline}</td>
      <td>{i.kind === "ply" ? (i.faceUp ? "up" : "down") : ""}</td>
    </>
  );
}

/** The operations of both routes, those that differ marked. */
function RouteDifference({ from, to, lines }: { from: string; to: string; lines: Schemas["RouteChange"][] }) {
  const differs = (l: Schemas["RouteChange"]) => !l.was || !l.is || l.fields.length > 0;
  const touched = lines.filter(differs);
  const cells = (o: Schemas["Operation"] | undefined) => (
    <>
      <td>{o && <b>{o.name || o.kind}</b>}</td>
      <td>{o && takes(o)}</td>
      <td>{o?.after?.join(", ")}</td>
    </>
  );
  return (
    <>
      <Heading>
        {touched.length === 0 ? "Same route" : `Route: ${touched.length} of ${lines.length} operations differ`}
      </Heading>
      {touched.length > 0 && (
        <Table>
          <thead>
            <tr>
              <th>{from}</th>
              <th>Takes</th>
              <th>After</th>
              <th>differs</th>
              <th>{to}</th>
              <th>Takes</th>
              <th>After</th>
            </tr>
          </thead>
          <tbody>
            {touched.map((l) => (
              <tr key={(l.was?.key ?? "") + "/" + (l.is?.key ?? "")} className="on">
                {cells(l.was)}
                <td>
                  {!l.was ? (
                    <Mark tone="plain">new</Mark>
                  ) : !l.is ? (
                    <Mark tone="plain">gone</Mark>
                  ) : (
                    l.fields.map((f) => words[f] ?? f).join(", ")
                  )}
                </td>
                {cells(l.is)}
              </tr>
            ))}
          </tbody>
        </Table>
      )}
    </>
  );
}

/** The items of both revisions beside each other. */
function DifferenceTable({
  from,
  to,
  lines,
  cells,
}: {
  from: string;
  to: string;
  lines: Schemas["ChangeView"][];
  cells: (i: undefined | Schemas["Item"], label: undefined | string) => JSX.Element;
}) {
  return (
    <Table>
      <thead>
        <tr>
          <th>{from}</th>
          <th>Material</th>
          <th className="n">Angle</th>
          <th>Outline</th>
          <th>Face</th>
          <th>differs</th>
          <th>{to}</th>
          <th>Material</th>
          <th className="n">Angle</th>
          <th>Outline</th>
          <th>Face</th>
        </tr>
      </thead>
      <tbody>
        {lines.map((l) => {
          const differs = !l.was || !l.is || l.fields.length > 0;
          return (
            <tr key={(l.was?.key ?? "") + "/" + (l.is?.key ?? "")} className={differs ? "on" : undefined}>
              {cells(l.was, l.wasLabel)}
              <td>
                {!l.was ? (
                  <Mark tone="plain">new</Mark>
                ) : !l.is ? (
                  <Mark tone="plain">gone</Mark>
                ) : (
                  l.fields.map((f) => words[f] ?? f).join(", ")
                )}
              </td>
              {cells(l.is, l.isLabel)}
            </tr>
          );
        })}
      </tbody>
    </Table>
  );
}

/** One revision, drawn. */
function SideDrawn({
  side,
  letter,
  drawing,
  touched,
}: {
  side: "is" | "was";
  letter: string;
  drawing: Schemas["Drawing"];
  touched: (side: "is" | "was") => string[];
}) {
  return (
    <div style={{ flex: "1 1 300px" }}>
      <b>{letter}</b>
      <PlanView
        layers={layersOf(drawing)}
        chosen={touched(side)}
        found={new Set()}
        width={480}
        height={220}
        label={`Plan of revision ${letter}, what differs filled`}
      />
    </div>
  );
}

/** One of the revisions that are compared. */
function RevisionChoice({
  label,
  letter,
  choose,
  letters,
}: {
  label: string;
  letter: string;
  choose: (letter: string) => void;
  letters: Schemas["RevisionView"]["letters"];
}) {
  return (
    <SelectField label={label} value={letter} onChange={(e) => choose(e.target.value)}>
      {letters.map((l) => (
        <option key={l.letter}>{l.letter}</option>
      ))}
    </SelectField>
  );
}
