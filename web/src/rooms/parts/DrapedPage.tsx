// A curved stage: how a ply lies on the tool at the left, its flat on the table at the right, and
// between them where the fabric will not go.
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useMemo, useState, type ReactNode } from "react";
import { api, client } from "../../app/api";
import { Refused, type Schemas } from "../../contract/types";
import { angle as signed, told } from "../../ui/format";
import { Big, Button, Heading, Loading, Mark, Row, SelectField, Stack, Table } from "../../ui/parts";
import { Seam, type Difference } from "../../ui/Seam";
import { plain, said } from "../../ui/units";
import { Figure } from "./Detail";
import { DrapedFlat } from "./DrapedFlat";
import { Facts } from "./Facts";
import { withItem, type Item, type Master, type Stage } from "./edits";
import { cells, views, type Node, type View } from "./net";
import { NetView } from "./NetView";
import { useLabels } from "./StackPage";
import type { Revision } from "./useMaster";

type Reply = Schemas["DrapedReply"];
type Surface = Schemas["Surface"];

function useDraped(code: string, letter: string, doc: Master | undefined, stage: string, ply: string | undefined) {
  const key = doc && JSON.stringify([doc.stages.find((s) => s.key === stage), doc.outlines, doc.variants]);
  return useQuery({
    queryKey: ["draped", code, letter, stage, ply, key],
    placeholderData: keepPreviousData,
    queryFn: async (): Promise<Reply> => {
      const { data, error } = await client.POST("/api/parts/{code}/draped", {
        params: { path: { code } },
        body: { letter, stage, ...(ply ? { ply } : {}), ...(doc ? { document: doc } : {}) },
      });
      if (!data) throw new Refused(error);
      return data;
    },
  });
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
  const [view, look] = useState<View>("slant");
  const [at, pick] = useState<Node>();
  const asked = useDraped(code, v.letter, change ? doc : undefined, stage.key, chosen);
  const materials = api.useQuery("get", "/api/materials");
  const labels = useLabels(doc);
  // While a fault stands, the last way it lay stays in sight.
  const [good, setGood] = useState<Reply>();
  const answer = asked.data;
  if (answer?.draped && answer !== good) setGood(answer);
  const d = answer?.draped ?? good?.draped;
  const lock = answer?.lockDeg ?? 0;
  const grid = useMemo(() => cells(d?.nodes ?? [], lock), [d, lock]);
  if (!answer) return <Loading error={asked.error} />;
  const plies = stage.items.filter((i) => i.kind === "ply");
  const item = plies.find((i) => i.key === answer.ply);
  const material = (materials.data ?? []).find((m) => m.id === item?.materialId);
  const name = item ? `ply ${labels.get(item.key) ?? ""}` : "";
  const picked = at && grid.nodes.get(`${at.i},${at.j}`);
  const differences: Difference[] = [];
  if (d) {
    const more = (d.area / d.surface - 1) * 100;
    differences.push({ says: `${more < 0 ? "−" : "+"}${plain(Math.abs(more), 1)} % area`, tone: "plain" });
    if (d.locks.length > 0) differences.push({ says: "locks", tone: "stop" });
    if (d.bridges.length > 0) differences.push({ says: "bridges", tone: "attend" });
  }
  const setItem = (part: Partial<Item>) => item && change?.(withItem(doc, item.key, part));
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
              <Big>{surface.kind}</Big>
            </div>
            {choice}
          </Row>
          {answer.faults.map((f) => (
            <p key={f.key + f.field + f.says} role="alert" style={{ margin: 0 }}>
              <Mark tone="stop">{said(f.says)}</Mark>
            </p>
          ))}
          {answer.says && (
            <p role="alert" style={{ margin: 0 }}>
              <Mark tone="stop">{said(answer.says)}</Mark>
            </p>
          )}
          {d && (
            <>
              <Row $gap={8}>
                {(Object.keys(views) as View[]).map((k) => (
                  <Button key={k} $quiet $small aria-pressed={view === k} onPress={() => look(k)}>
                    {views[k]}
                  </Button>
                ))}
              </Row>
              <NetView
                draped={d}
                grid={grid}
                edge={answer.edge}
                view={view}
                lock={lock}
                picked={picked}
                pick={pick}
                label={`${name} on its surface, ${views[view].toLowerCase()}: shear up to ${plain(d.peakDeg, 0)}°`}
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
                        Lay it on first here
                      </Button>
                    )}
                  </>
                ) : (
                  "Point at a place, here or on the table, to see how the fabric lies there."
                )}
              </p>
              <p style={{ margin: 0, fontSize: 18 }}>
                Peak shear{" "}
                <b style={d.locks.length > 0 ? { color: "var(--brick)" } : undefined}>{plain(d.peakDeg, 0)}°</b>
                {lock > 0 && `, locks at ${plain(lock, 0)}°`} · Mean <b>{plain(d.meanDeg, 0)}°</b> · Fibre off its angle
                at most <b>{plain(d.offDeg, 0)}°</b>
              </p>
              {d.says.map((s) => (
                <Mark key={s} tone="attend">
                  {said(s)}
                </Mark>
              ))}
            </>
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
          {d && item ? (
            <>
              <div>
                <Heading>
                  {name}, {signed(item.angleDeg)}
                </Heading>
                <Big>Flat, {told.area(d.area, 3)}</Big>
              </div>
              <DrapedFlat
                draped={d}
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
              <Facts facts={factsOf(d)} />
              {change && (
                <Row $gap={12} $top role="group" aria-label="How it is laid on">
                  <Figure
                    label="Warp at the start, °"
                    scale={1}
                    need
                    min={-180}
                    max={180}
                    value={item.angleDeg}
                    set={(a) => setItem({ angleDeg: a ?? 0 })}
                  />
                  <Figure
                    label="Laid on first at x, mm"
                    scale={1e3}
                    value={item.laid?.x}
                    set={(x) => setItem({ laid: x === undefined ? undefined : { y: d.start[1]!, ...item.laid, x } })}
                  />
                  <Figure
                    label="y, mm"
                    scale={1e3}
                    value={item.laid?.y}
                    set={(y) => setItem({ laid: y === undefined ? undefined : { x: d.start[0]!, ...item.laid, y } })}
                  />
                  <Figure
                    label="Cell of its net, mm"
                    scale={1e3}
                    min={0}
                    value={item.laid?.cell}
                    set={(cell) => setItem({ laid: { ...item.laid, cell } })}
                  />
                </Row>
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

/** What is known of how a ply lies. */
const factsOf = (d: Schemas["Draped"]): [string, string][] => [
  ["Covers on the tool", told.area(d.surface, 3)],
  ["Laid on first", `${told.size(d.start[0]!, 0)}, ${told.size(d.start[1]!, 0)} from the datum`],
  ["Most shear", `${plain(d.peakDeg, 1)}° at ${told.size(d.peakAt[0]!, 0)}, ${told.size(d.peakAt[1]!, 0)}`],
  ["Notches, datum marks", `${d.notches.length}, 1`],
  ["Net", `${d.nodes.length} places, cells of ${told.size(d.cell)}`],
];

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

function SurfaceForm({ surface, set, off }: { surface: Surface; set: (s: Surface) => void; off: () => void }) {
  const kinds = api.useQuery("get", "/api/surfaces").data ?? [];
  const known = kinds.find((k) => k.kind === surface.kind);
  return (
    <details>
      <summary style={{ fontWeight: 700, minHeight: 32, cursor: "pointer" }}>The surface</summary>
      <Stack $gap={10}>
        <Row $gap={12} $top>
          <SelectField
            label="Surface"
            value={surface.kind}
            onChange={(e) => {
              const kind = kinds.find((k) => k.kind === e.target.value);
              if (kind)
                set({
                  kind: kind.kind,
                  dims: Object.fromEntries(kind.dims.map((x) => [x.name, surface.dims[x.name] ?? x.usual])),
                });
            }}
          >
            {kinds.map((k) => (
              <option key={k.kind} value={k.kind}>
                {k.called}
              </option>
            ))}
          </SelectField>
          {known?.dims.map((x) => (
            <Figure
              key={surface.kind + x.name}
              need
              label={x.called[0]!.toUpperCase() + x.called.slice(1) + (x.unit === "°" ? ", °" : ", mm")}
              scale={x.unit === "°" ? 1 : 1e3}
              value={surface.dims[x.name]}
              set={(n) => set({ ...surface, dims: { ...surface.dims, [x.name]: n ?? 0 } })}
            />
          ))}
          <label style={{ minHeight: 32, display: "inline-flex", alignItems: "center", gap: 8, alignSelf: "flex-end" }}>
            <input
              type="checkbox"
              checked={surface.turned ?? false}
              onChange={(e) => set({ ...surface, turned: e.target.checked || undefined })}
            />
            laid on its other side
          </label>
        </Row>
        <Row>
          <Button $quiet $small onPress={off}>
            Lay it flat instead
          </Button>
        </Row>
      </Stack>
    </details>
  );
}
