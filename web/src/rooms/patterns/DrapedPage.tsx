// A curved stage: how a ply lies on the tool at the left, its flat on the table at the right, and
// between them where the fabric will not go.
import { useMemo, useState, type ReactNode } from "react";
import { api, client, useChange } from "../../app/api";
import type { Schemas } from "../../contract/types";
import { angle as signed, told } from "../../ui/format";
import { Big, Button, Heading, Loading, Mark, Refusal, Row, SelectField, Stack, Table } from "../../ui/parts";
import { Seam, type Difference } from "../../ui/Seam";
import { inSize, plain, said, shownNumber, unitName } from "../../ui/units";
import { ByHand } from "./ByHand";
import { DrapedFlat } from "./DrapedFlat";
import { DrapedView } from "./DrapedView";
import { itemLabels, withItem, type Item, type Master, type Stage } from "../master/edits";
import { Facts } from "../master/Facts";
import { FlatDrawing } from "./FlatDrawing";
import { DrapeForm } from "./DrapeForm";
import { again, cells, type Node } from "./net";
import { laidBy, SeekDrape, useSeek } from "./SeekDrape";
import { StageFaults } from "./StageFaults";
import { SurfaceForm } from "./SurfaceForm";
import { usePattern } from "./usePattern";
import type { Revision } from "../master/useMaster";

type Reply = Schemas["DrapedReply"];
type Surface = Schemas["Surface"];

function useDraped(code: string, letter: string, doc: Master | undefined, stage: string, ply: string | undefined) {
  const key = doc && JSON.stringify([doc.stages.find((s) => s.key === stage), doc.outlines, doc.variants]);
  return usePattern<Reply>(
    ["draped", code, letter, stage, ply, key],
    () =>
      client.POST("/api/parts/{code}/draped", {
        params: { path: { code } },
        body: { letter, stage, ...(ply ? { ply } : {}), ...(doc ? { document: doc } : {}) },
      }),
    (reply) => reply.whole !== undefined,
  );
}

export function DrapedPage({
  v,
  code,
  doc,
  stage,
  surface,
  choice,
  change,
  set,
}: {
  v: Revision;
  code: string;
  doc: Master;
  stage: Stage;
  surface: Surface;
  choice: ReactNode;
  change?: (m: Master) => void;
  set?: (part: Partial<Stage>) => void;
}) {
  const [chosen, choose] = useState<string>();
  const [at, pick] = useState<Node>();
  const [shown, show] = useState(0);
  const seek = useSeek(code, v.letter, stage.key);
  const plies = stage.items.filter((i) => i.kind === "ply");
  // While a search goes on, the best so far is drawn.
  const sought = stage.items.find((i) => i.key === seek.ply);
  const best = change && sought ? laidBy(seek.search, sought.laid) : undefined;
  const drawn = best && sought ? withItem(doc, sought.key, { laid: best }) : doc;
  const asked = useDraped(code, v.letter, change ? drawn : undefined, stage.key, chosen);
  const materials = api.useQuery("get", "/api/materials");
  const labels = itemLabels(doc);
  const { reply: answer, good: lies } = asked;
  const grid = useMemo(() => cells(lies?.pieces ?? [], lies?.whole?.scaleDeg ?? []), [lies]);
  const cover = useChange("/api/outline", (o) => {
    const key = answer?.ply;
    if (!key || !change) return;
    const outlines = [...doc.outlines.filter((x) => x.name !== o.name), o];
    change(withItem({ ...doc, outlines }, key, { outline: o.name, x: 0, y: 0, turnDeg: undefined }));
  });
  if (!answer) return <Loading error={asked.error} />;
  const item = plies.find((i) => i.key === answer.ply);
  const material = (materials.data ?? []).find((m) => m.id === item?.materialId);
  const name = item ? `ply ${labels.get(item.key) ?? ""}` : "";
  const picked = at && again(grid, at);
  const whole = lies?.whole;
  const pieces = lies?.pieces ?? [];
  const piece = Math.min(picked?.piece ?? shown, pieces.length - 1);
  const d = pieces[piece];
  const locks = pieces.some((p) => p.locks.length > 0);
  const differences: Difference[] = [];
  if (whole) {
    if (whole.more !== undefined) {
      const more = whole.more * 100;
      differences.push({ label: `${more < 0 ? "−" : "+"}${plain(Math.abs(more), 1)} % area`, tone: "plain" });
    }
    if (locks) differences.push({ label: "locks", tone: "stop" });
    if (pieces.some((p) => p.bridges.length > 0)) differences.push({ label: "bridges", tone: "attend" });
    const darts = pieces.reduce((n, p) => n + p.lips.length, 0);
    if (darts > 0) differences.push({ label: darts === 1 ? "1 dart" : `${darts} darts`, tone: "plain" });
    if (pieces.length > 1) differences.push({ label: `${pieces.length} pieces`, tone: "plain" });
  }
  const setItem = (part: Partial<Item>) => item && change?.(withItem(doc, item.key, part));
  // What is kept is cut: a change by hand, and the flat of a released revision.
  const flat = item?.flat;
  const parted = flat && !change && lies?.keptDiffers;
  const kept = flat && (flat.hand || parted) ? flat.pieces[Math.min(piece, flat.pieces.length - 1)] : undefined;
  if (flat?.hand) differences.push({ label: "by hand", tone: "attend" });
  return (
    <Seam
      left="minmax(0, 1.1fr)"
      names={["On the tool", "On the table"]}
      differences={differences}
      planned={
        <Stack $gap={12}>
          <Row $between $top>
            <div>
              <Heading>
                {v.part.number} {v.letter}, {stage.name}
                {name && `, ${name}, ${material?.name ?? ""}`}
              </Heading>
              <Big>{surface.kind === "mesh" ? "surface from a file" : surface.kind}</Big>
            </div>
            <Row $gap={12}>
              {choice}
              {plies.length > 1 && (
                <SelectField label="Ply" value={answer.ply} onChange={(e) => choose(e.target.value)}>
                  {plies.map((i) => (
                    <option key={i.key} value={i.key}>
                      {labels.get(i.key)}, {signed(i.angleDeg)}
                    </option>
                  ))}
                </SelectField>
              )}
            </Row>
          </Row>
          <StageFaults faults={answer.faults} />
          {answer.message && (
            <p role="alert" style={{ margin: 0 }}>
              <Mark tone="stop">{said(answer.message)}</Mark>
            </p>
          )}
          {whole && lies && (
            <>
              <DrapedView
                pieces={pieces}
                grid={grid}
                edge={lies.edge}
                lines={lies.lines}
                scale={whole.scaleDeg}
                lock={lies.lockDeg}
                picked={picked}
                pick={pick}
                label={`${name} on its surface: shear up to ${plain(whole.peakDeg, 0)}°`}
              />
              <p role="status" style={{ margin: 0 }}>
                {picked ? (
                  <>
                    Here: sheared by <b>{plain(picked.shear, 1)}°</b>, warp at {plain(picked.warp, 1)}°, weft at{" "}
                    {plain(picked.weft, 1)}°; {told.size(picked.at[0]!, 0)}, {told.size(picked.at[1]!, 0)} from the
                    datum.{" "}
                    {change && (
                      <Button
                        $quiet
                        $small
                        onPress={() => setItem({ laid: { ...item?.laid, x: picked.at[0]!, y: picked.at[1]! } })}
                      >
                        Start here
                      </Button>
                    )}
                  </>
                ) : (
                  <>
                    Point at a place, here or on the table, to see how the fabric lies there. Dashed: sections every{" "}
                    {size(lies.step)}.
                  </>
                )}
              </p>
              <p style={{ margin: 0, fontSize: 18 }}>
                Peak shear <b style={locks ? { color: "var(--brick)" } : undefined}>{plain(whole.peakDeg, 0)}°</b>
                {lies.lockDeg > 0 && `, locks at ${plain(lies.lockDeg, 0)}°`} · Mean <b>{plain(whole.meanDeg, 0)}°</b> ·
                Max. fibre deviation <b>{plain(whole.offDeg, 0)}°</b>
                {whole.radius ? (
                  <>
                    {" "}
                    · Steered along <b>{plain(whole.radius, 2)} m</b> at the tightest
                  </>
                ) : null}
              </p>
              {whole.messages.map((s) => (
                <Mark key={s} tone="attend">
                  {said(s)}
                </Mark>
              ))}
              {change && item && (
                <SeekDrape
                  seek={seek}
                  doc={doc}
                  ply={item.key}
                  laid={item.laid}
                  locks={locks}
                  take={(laid) => setItem({ laid })}
                />
              )}
            </>
          )}
          {change && item && (
            <Row $gap={8}>
              <Button
                $quiet
                $small
                why={answer.edge.length > 2 ? "" : "The surface has no edge: draw an outline on it in plan."}
                onPress={() => cover.mutate({ body: wholeOf(answer.edge) })}
              >
                Cover the whole surface
              </Button>
            </Row>
          )}
          <Refusal error={cover.error} />
          {change && item && (
            <DrapeForm item={item} pieces={pieces} picked={picked} start={pieces[0]?.start} set={setItem} />
          )}
          {set && (
            <SurfaceForm
              surface={surface}
              set={(next) => set({ surface: next })}
              off={() =>
                set({
                  surface: undefined,
                  items: stage.items.map((i) => ({ ...i, laid: undefined, flat: undefined })),
                })
              }
            />
          )}
        </Stack>
      }
      built={
        <Stack $gap={12}>
          {d && whole && item ? (
            <>
              <Row $between $top>
                <div>
                  <Heading>
                    {name}, {signed(item.angleDeg)}
                    {pieces.length > 1 && `, ${pieceName(d, piece)} of ${pieces.length}`}
                  </Heading>
                  <Big>Flat, {told.area(pieces.length > 1 ? whole.area : d.area, 3)}</Big>
                </div>
                {pieces.length > 1 && (
                  <SelectField
                    label="Piece"
                    value={piece}
                    onChange={(e) => {
                      pick(undefined);
                      show(Number(e.target.value));
                    }}
                  >
                    {pieces.map((p, k) => (
                      <option key={k} value={k}>
                        {pieceName(p, k)}, {told.area(p.area, 3)}
                      </option>
                    ))}
                  </SelectField>
                )}
              </Row>
              {kept ? (
                <>
                  <FlatDrawing
                    outline={kept.points.map((p) => [p.x, p.y])}
                    hatch={{
                      angleDeg: kept.fibreDeg,
                      woven: material?.kind === "woven",
                      thickness: material?.thickness ?? 0,
                      faceUp: item.faceUp,
                    }}
                    label={`${name} flat as it is kept`}
                  />
                  {!item.flat?.hand && (
                    <Mark tone="attend">
                      Cut as it was released, {told.area(lies.keptArea ?? 0, 4)}. Draped anew:{" "}
                      {told.area(whole.area, 4)}.
                    </Mark>
                  )}
                </>
              ) : (
                <DrapedFlat
                  draped={d}
                  piece={piece}
                  grid={grid}
                  picked={picked}
                  pick={pick}
                  hatch={{
                    angleDeg: 0,
                    woven: material?.kind === "woven",
                    thickness: material?.thickness ?? 0,
                    faceUp: item.faceUp,
                  }}
                  label={`${name} flat, ${told.area(d.area, 3)}, its warp along the roll`}
                />
              )}
              <Facts facts={factsOf(whole, d)} />
              {change && (
                <ByHand
                  key={item.key}
                  flat={item.flat}
                  derived={told.area(whole.area, 4)}
                  begin={item.flat?.pieces.length ? item.flat : undefined}
                  set={(flat) => setItem({ flat })}
                />
              )}
            </>
          ) : (
            <p>No ply lies on this surface yet: lay plies in the stack, each with its outline in plan.</p>
          )}
          <Plies plies={plies} labels={labels} chosen={answer.ply} choose={choose} />
        </Stack>
      }
    />
  );
}

/** The edge of a surface as an outline in plan, a hair within it. */
const wholeOf = (edge: number[][]) => ({
  outline: {
    name: "whole surface",
    kind: "points" as const,
    points: edge.map((p) => ({ x: p[0]!, y: p[1]! })),
  },
  name: "whole surface",
  offset: -2e-4,
  radius: 0,
});

/** What a piece is called, as the kit calls it. */
function pieceName(p: Schemas["Draped"], k: number) {
  if (!p.strip) return `piece ${k + 1}`;
  return p.strip.number === 0 ? "strip 0" : `strip ${p.strip.number > 0 ? "+" : "−"}${Math.abs(p.strip.number)}`;
}

const size = (m: number) => `${shownNumber(inSize(Math.round(m * 1e4) / 1e4))} ${unitName("size")}`;

/** What is known of how a ply lies, and one of its pieces. */
function factsOf(w: Schemas["DrapedSummary"], d: Schemas["Draped"]): [string, string][] {
  const out: [string, string][] = [
    ["Covers on the tool", told.area(w.surface, 3)],
    ["Start", `${told.size(d.start[0]!, 0)}, ${told.size(d.start[1]!, 0)} from the datum`],
  ];
  if (d.strip) {
    out.push(["Steered along", d.strip.radius ? `${plain(d.strip.radius, 2)} m at the tightest` : "straight"]);
    out.push(["To its neighbour", `up to ${size(d.strip.gap)} apart, up to ${size(d.strip.lap)} over it`]);
    return out;
  }
  out.push(["Max. shear", `${plain(w.peakDeg, 1)}° at ${told.size(w.peakAt[0]!, 0)}, ${told.size(w.peakAt[1]!, 0)}`]);
  for (const [k, l] of d.lips.entries())
    out.push([
      `Dart ${k + 1}`,
      l.width < 0 ? `opens by ${size(-l.width)} on the tool` : `${size(l.width)} cut away at the edge`,
    ]);
  out.push(["Notches, datum marks", `${d.notches.length}, 1`]);
  out.push(["Net", `${d.nodes.length} places, cells of ${told.size(d.cell)}`]);
  return out;
}

/** The plies of the stage with what their flats say of themselves. */
function Plies({
  plies,
  labels,
  chosen,
  choose,
}: {
  plies: Item[];
  labels: Map<string, string>;
  chosen: string;
  choose: (key: string) => void;
}) {
  if (plies.length === 0) return null;
  return (
    <Table>
      <thead>
        <tr>
          <th>Ply</th>
          <th className="n">Angle</th>
          <th className="n">Peak shear</th>
          <th className="n">Off its angle</th>
          <th>Outline</th>
        </tr>
      </thead>
      <tbody>
        {plies.map((i) => (
          <tr key={i.key} className={i.key === chosen ? "on" : undefined}>
            <td>
              <Button
                $quiet
                $small
                aria-label={`Show ply ${labels.get(i.key)}`}
                aria-pressed={i.key === chosen}
                onPress={() => choose(i.key)}
              >
                {labels.get(i.key)}
              </Button>
            </td>
            <td className="n">{signed(i.angleDeg)}</td>
            <td className="n">
              {i.flat?.pieces.length ? (
                `${plain(i.flat.peakDeg ?? 0, 0)}°`
              ) : (
                <Mark tone="attend">{i.flat ? "cannot be laid" : "not laid yet"}</Mark>
              )}
            </td>
            <td className="n">{i.flat?.pieces.length ? `${plain(i.flat.offDeg ?? 0, 0)}°` : ""}</td>
            <td>{i.outline}</td>
          </tr>
        ))}
      </tbody>
    </Table>
  );
}
