// Flat patterns of a master: by stage, how its plies come from the shape on the tool to the
// shape on the table.
import { useState } from "react";
import { angle } from "../../ui/format";
import { Button, Heading, Mark, Page, Row, SelectField, Stack, Table } from "../../ui/parts";
import { said } from "../../ui/units";
import { api } from "../../app/api";
import { itemLabels, withItem, type Master, type Stage } from "../master/edits";
import { ByHand } from "./ByHand";
import { FlatDrawing } from "./FlatDrawing";
import type { Revision } from "../master/useMaster";
import { DrapedPage } from "./DrapedPage";
import { RolledPage } from "./RolledPage";
import type { Schemas } from "../../contract/types";

export function Patterns({
  v,
  code,
  doc,
  drawn,
  change,
}: {
  v: Revision;
  code: string;
  doc: Master;
  /** Outlines as the server drew them, by name, m. */
  drawn: Map<string, number[][]>;
  /** Missing: it is read only. */
  change?: (m: Master) => void;
}) {
  const [picked, pick] = useState<string>();
  const labels = itemLabels(doc);
  const stages = doc.stages;
  const stage = stages.find((s) => s.key === picked) ?? stages.find((s) => s.rolled ?? s.surface) ?? stages[0];
  if (!stage)
    return (
      <Page>
        <p>An empty stack: lay plies first, and their flat patterns stand here.</p>
      </Page>
    );
  const set = (part: Partial<Stage>) =>
    change?.({ ...doc, stages: doc.stages.map((s) => (s.key === stage.key ? { ...s, ...part } : s)) });
  const choice = stages.length > 1 && (
    <SelectField label="Stage" value={stage.key} onChange={(e) => pick(e.target.value)}>
      {stages.map((s, k) => (
        <option key={s.key} value={s.key}>
          {s.name || `stage ${k + 1}`}
          {s.rolled ? ", rolled" : s.surface ? ", curved" : ""}
        </option>
      ))}
    </SelectField>
  );
  const page = { v, code, doc, stage, choice, ...(change ? { change, set } : {}) };
  if (stage.rolled) return <RolledPage key={stage.key} mandrel={stage.rolled} {...page} />;
  if (stage.surface) return <DrapedPage key={stage.key} surface={stage.surface} {...page} />;
  const cores = stage.items.filter((i) => i.kind === "core").length;
  return (
    <Page>
      <Row $gap={16} $top $between>
        <div>
          <Heading>
            {v.part.number} {v.letter}, {stage.name}
          </Heading>
          <p>Its plies lie flat: each is cut as its outline lies on the tool, turned to the roll.</p>
        </div>
        {choice}
      </Row>
      <FlatPlies stage={stage} labels={labels} drawn={drawn} doc={doc} {...(change ? { change } : {})} />
      {change && (
        <Row $gap={10}>
          <Button
            why={cores > 0 ? "A core is not rolled: give it a stage of its own." : ""}
            onPress={() => set({ rolled: { section: "round", width: 0.04, length: 0.6, stepDeg: 90 } })}
          >
            Roll it on a mandrel
          </Button>
          <Button onPress={() => set({ surface: { kind: "sphere cap", dims: { radius: 0.4, angle: 50 } } })}>
            Lay it over a curved surface
          </Button>
        </Row>
      )}
    </Page>
  );
}

/** Plies that lie flat: in one piece, or in pieces along the fibre; the chosen one drawn. */
function FlatPlies({
  stage,
  labels,
  drawn,
  doc,
  change,
}: {
  stage: Stage;
  labels: Map<string, string>;
  drawn: Map<string, number[][]>;
  doc: Master;
  change?: (m: Master) => void;
}) {
  const [chosen, choose] = useState<string>();
  const materials = api.useQuery("get", "/api/materials").data ?? [];
  const plies = stage.items.filter((i) => i.kind === "ply");
  if (plies.length === 0) return null;
  const one = plies.find((i) => i.key === chosen) ?? plies[0]!;
  const material = materials.find((m) => m.id === one.materialId);
  const hatch = {
    woven: material?.kind === "woven",
    thickness: material?.thickness ?? 0,
    faceUp: one.faceUp,
  };
  const ring = drawn.get(one.outline ?? "");
  return (
    <Row $gap={28} $top>
      <FlatTable plies={plies} one={one} labels={labels} choose={choose} />
      <Stack $gap={10} style={{ flex: "1 1 420px" }}>
        <Heading>
          ply {labels.get(one.key)}, {angle(one.angleDeg)}
          {material && `, ${material.name}`}
        </Heading>
        {one.flat?.pieces.map((p, k) => (
          <FlatDrawing
            key={k}
            outline={p.points.map((q) => [q.x, q.y])}
            hatch={{ ...hatch, angleDeg: p.fibreDeg }}
            height={180}
            label={`ply ${labels.get(one.key)}, piece ${k + 1}, flat`}
          />
        ))}
        {!one.flat && ring && ring.length > 0 && (
          <FlatDrawing
            outline={ring}
            hatch={{ ...hatch, angleDeg: one.angleDeg + (stage.rosette ?? 0) - (one.turnDeg ?? 0) }}
            label={`ply ${labels.get(one.key)} flat, its fibre at ${one.angleDeg}°`}
          />
        )}
        {change && one.flat && (
          <ByHand
            key={one.key}
            flat={one.flat}
            derived="as the table says"
            begin={one.flat.pieces.length > 0 ? one.flat : undefined}
            set={(flat) => change(withItem(doc, one.key, { flat }))}
          />
        )}
      </Stack>
    </Row>
  );
}

/** The plies that lie flat, and how each is cut. */
function FlatTable({
  plies,
  one,
  labels,
  choose,
}: {
  plies: Schemas["Item"][];
  one: Schemas["Item"];
  labels: Map<string, string>;
  choose: (value: undefined | string | ((prevState: undefined | string) => undefined | string)) => void;
}) {
  return (
    <Table style={{ width: "auto", flex: "1 1 420px" }}>
      <thead>
        <tr>
          <th>Ply</th>
          <th className="n">Angle</th>
          <th>Outline</th>
          <th>Cut</th>
        </tr>
      </thead>
      <tbody>
        {plies.map((i) => (
          <tr key={i.key} className={i === one ? "on" : undefined}>
            <td>
              <Button
                $quiet
                $small
                aria-label={`Show ply ${labels.get(i.key)}`}
                aria-pressed={i === one}
                onPress={() => choose(i.key)}
              >
                {labels.get(i.key)}
              </Button>
            </td>
            <td className="n">{angle(i.angleDeg)}</td>
            <td>{i.outline}</td>
            <td>
              {!i.flat ? (
                "in one piece"
              ) : i.flat.pieces.length > 0 ? (
                said(i.flat.says)
              ) : (
                <Mark tone="stop">{said(i.flat.warnings?.[0])}</Mark>
              )}
            </td>
          </tr>
        ))}
      </tbody>
    </Table>
  );
}
