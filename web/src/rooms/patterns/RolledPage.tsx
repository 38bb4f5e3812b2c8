// A rolled stage: on the mandrel at the left, its sheets flat on the table at the right, and
// between them what does not come out as it is wanted.
import { useState, type ReactNode } from "react";
import { api, client } from "../../app/api";
import type { Schemas } from "../../contract/types";
import { angle as signed, percent, told } from "../../ui/format";
import { Big, Button, Heading, Loading, Mark, Row, Stack, Table } from "../../ui/parts";
import { Seam, type Difference } from "../../ui/Seam";
import { plain, said } from "../../ui/units";
import { layered } from "../master/cells";
import { itemLabels, withItem, type Item, type Master, type Stage } from "../master/edits";
import { ByHand } from "./ByHand";
import { Facts } from "../master/Facts";
import { FlatDrawing } from "./FlatDrawing";
import { MandrelForm, type Mandrel } from "./MandrelForm";
import { SectionRound, WallUnrolled } from "./SectionRound";
import { AngleFor, type Sought } from "./AngleFor";
import { StageFaults } from "./StageFaults";
import { usePattern } from "./usePattern";
import type { Revision } from "../master/useMaster";
import { WrapForm } from "./WrapForm";

type Reply = Schemas["RolledReply"];

function useRolled(code: string, letter: string, doc: Master | undefined, stage: string, sought: Sought) {
  const key = doc && JSON.stringify([doc.stages, doc.parameters, doc.variants]);
  return usePattern<Reply>(
    ["rolled", code, letter, stage, key, sought],
    () =>
      client.POST("/api/parts/{code}/rolled", {
        params: { path: { code } },
        body: { letter, stage, ...sought, ...(doc ? { document: doc } : {}) },
      }),
    (reply) => reply.rolled !== undefined,
  );
}

export function RolledPage({
  v,
  code,
  doc,
  stage,
  mandrel,
  choice,
  change,
  set,
}: {
  v: Revision;
  code: string;
  doc: Master;
  stage: Stage;
  mandrel: Mandrel;
  choice: ReactNode;
  change?: (m: Master) => void;
  set?: (part: Partial<Stage>) => void;
}) {
  const [at, choose] = useState(0);
  const [end, setEnd] = useState<0 | 1>(0);
  const [writing, write] = useState(false);
  const [sought, seek] = useState<Sought>({});
  const asked = useRolled(code, v.letter, change ? doc : undefined, stage.key, sought);
  const materials = api.useQuery("get", "/api/materials");
  const labels = itemLabels(doc);
  const { reply: answer, good } = asked;
  if (!answer) return <Loading error={asked.error} />;
  const r = { ...(good ?? answer), faults: answer.faults };
  const w = r.rolled;
  const sheets = stage.items.filter((i) => layered(i) && i.kind !== "core");
  const k = Math.min(at, Math.max(0, (w?.sheets.length ?? 1) - 1));
  const s = w?.sheets[k];
  // Of a family the first variant is shown: its sheets may be more than the items.
  const item = sheets.find((i) => i.key === r.keys[k]) ?? sheets.find((i) => r.keys[k]?.startsWith(`${i.key}.`));
  const family = (doc.variants ?? []).length > 0;
  const names = (w?.sheets ?? []).map((x) => x.name.replace(/^ply /, ""));
  const material = (materials.data ?? []).find((m) => m.id === item?.materialId);
  const tapered = w && (w.inside[0]!.width !== w.inside[1]!.width || w.inside[0]!.height !== w.inside[1]!.height);
  const differences: Difference[] = [];
  if (w?.fits)
    differences.push(
      w.fits.met
        ? { label: "fits", tone: w.fits.surely ? "met" : "attend" }
        : { label: `${w.fits.off > 0 ? "+" : "−"}${told.size(Math.abs(w.fits.off), 2)} outside`, tone: "stop" },
    );
  if (w && w.findings.length > 0) differences.push({ label: `${w.findings.length} to check`, tone: "attend" });
  if (w?.pull?.warning) differences.push({ label: "mandrel grips", tone: "stop" });
  if (stage.items.some((i) => i.flat?.hand)) differences.push({ label: "by hand", tone: "attend" });
  const size = (e: 0 | 1, of: "inside" | "outside", digits = 2) => {
    const x = w![of][e]!;
    return x.width === x.height ? told.size(x.width, digits) : told.sides(x.width, x.height, digits);
  };
  const setItem = (part: Partial<Item>) => item && change?.(withItem(doc, item.key, part));
  // What is kept is cut: a change by hand, and the flat of a released revision.
  const hand = item?.flat && (item.flat.hand || !change) && item.flat.pieces.length > 0 ? item.flat : undefined;
  const flat = hand?.pieces[0]?.points.map((p) => [p.x, p.y]) ?? s?.flat;
  return (
    <Seam
      left="minmax(0, 1fr)"
      names={["On the mandrel", "On the table"]}
      differences={differences}
      planned={
        <Stack $gap={14}>
          <Row $between $top>
            <div>
              <Heading>
                {v.part.number} {v.letter}, {stage.name}
                {family ? `, variant ${doc.variants![0]!.name}` : ""}
              </Heading>
              <Big>
                {mandrel.section}, {w ? size(0, "inside", 1) : ""}
                {tapered ? ` to ${size(1, "inside", 1)}` : ""}
              </Big>
            </div>
            {choice}
          </Row>
          <StageFaults faults={r.faults} />
          {w && (
            <>
              <div
                style={
                  tapered
                    ? undefined
                    : {
                        display: "grid",
                        gridTemplateColumns: "repeat(auto-fit, minmax(230px, 1fr))",
                        gap: 12,
                        alignItems: "start",
                      }
                }
              >
                <div>
                  <SectionRound worked={w} end={end} names={names} chosen={k} />
                  {tapered && (
                    <Row $gap={8}>
                      {(["First end", "Last end"] as const).map((label, e) => (
                        <Button key={label} $quiet $small aria-pressed={end === e} onPress={() => setEnd(e as 0 | 1)}>
                          {label}
                        </Button>
                      ))}
                    </Row>
                  )}
                </div>
                <Sizes w={w} size={size} />
              </div>
              <WallUnrolled worked={w} names={names} chosen={k} choose={choose} />
              {w.findings.length > 0 && (
                <ul style={{ margin: 0, paddingLeft: 0, listStyle: "none" }}>
                  {w.findings.map((f) => (
                    <li key={f.message}>
                      <Mark tone="attend">{said(f.message)}</Mark>
                    </li>
                  ))}
                </ul>
              )}
              <Fits w={w} />
            </>
          )}
          {set && (
            <details open={writing} onToggle={(e) => write(e.currentTarget.open)}>
              <summary style={{ fontWeight: 700, minHeight: 32, cursor: "pointer" }}>
                Mandrel, seams, size wanted, tape and pull
              </summary>
              <MandrelForm m={mandrel} set={(part) => set({ rolled: { ...mandrel, ...part } })} />
              <Row style={{ paddingTop: 10 }}>
                <Button
                  $quiet
                  $small
                  why={sheets.some((i) => !i.outline) ? "Choose an outline for each of its plies first." : ""}
                  onPress={() =>
                    set({
                      rolled: undefined,
                      items: stage.items.map((i) => ({ ...i, wrap: undefined, flat: undefined })),
                    })
                  }
                >
                  Lay it flat instead
                </Button>
              </Row>
            </details>
          )}
          {w && <TapeAndPull w={w} message={r.message} />}
        </Stack>
      }
      built={
        <Stack $gap={14}>
          {w && s && flat ? (
            <>
              <div>
                <Heading>
                  {s.name}, {s.material}
                </Heading>
                <Big>
                  {s.shape}, {told.sides(s.length, s.across)}
                </Big>
              </div>
              <p style={{ margin: 0 }}>{said(s.instruction)}.</p>
              <FlatDrawing
                outline={flat}
                label={`${s.name} flat: ${s.shape}, ${told.sides(s.length, s.across)}, fibre at ${plain(s.fibreDeg, 1)}° from its length`}
                hatch={{
                  angleDeg: hand?.pieces[0]?.fibreDeg ?? s.fibreDeg,
                  woven: material?.kind === "woven",
                  thickness: s.thickness,
                  faceUp: item?.faceUp ?? true,
                }}
              />
              <Facts facts={factsOf(s)} />
              {change && item && (
                <>
                  <WrapForm key={item.key} item={item} last={k === w.sheets.length - 1} set={setItem} />
                  <ByHand
                    key={`hand ${item.key}`}
                    flat={item.flat}
                    derived={told.sides(s.length, s.across)}
                    begin={{
                      by: "rolled",
                      pieces: Array.from({ length: s.pieces }, () => ({
                        points: s.flat.map((p) => ({ x: p[0]!, y: p[1]! })),
                        fibreDeg: s.fibreDeg,
                      })),
                    }}
                    why={family ? "The flats of a family belong to its variants." : ""}
                    set={(flat) => setItem({ flat })}
                  />
                </>
              )}
            </>
          ) : (
            <p>No sheets yet: lay plies in the stack, and their flats stand here.</p>
          )}
          {w && w.sheets.length > 0 && <Sheets w={w} keys={r.keys} labels={labels} chosen={k} choose={choose} />}
          {w && w.sheets.length > 0 && (
            <AngleFor reply={r} names={w.sheets.map((x) => x.name)} sought={sought} seek={seek} />
          )}
        </Stack>
      }
    />
  );
}

/** What comes out: sizes, wall, mass, stiffness. */
function Sizes({ w, size }: { w: Schemas["RolledAnalysis"]; size: (e: 0 | 1, of: "inside" | "outside") => string }) {
  const ends = size(0, "inside") === size(1, "inside") && w.wall[0] === w.wall[1] ? [0 as const] : ([0, 1] as const);
  const row = (label: string, of: (e: 0 | 1) => string, alike = false) => (
    <tr>
      <th scope="row" style={{ borderBottom: "1px solid var(--g4)" }}>
        {label}
      </th>
      {(alike ? [0 as const] : ends).map((e) => (
        <td key={e} className="n" colSpan={alike ? ends.length : 1}>
          {of(e)}
        </td>
      ))}
    </tr>
  );
  const st = w.stiffness;
  const stiff = (v: number) => (v >= 1e3 ? `${plain(v / 1e3, 2)} kN m²` : `${plain(v, 1)} N m²`);
  return (
    <Table>
      {ends.length > 1 && (
        <thead>
          <tr>
            <th />
            <th className="n">First end</th>
            <th className="n">Last end</th>
          </tr>
        </thead>
      )}
      <tbody>
        {row("Inside", (e) => size(e, "inside"))}
        {row("Outside", (e) => size(e, "outside"))}
        {row("Wall", (e) => told.size(w.wall[e]!, 2))}
        {row("all materials at their limits", () => `± ${told.size(w.wallOff, 3)}`, true)}
        {w.overSeams > 0 &&
          row("Over its seams", () => `+ ${told.size(w.overSeams, 2)} at ${plain(w.overSeamsDeg, 0)}°`, true)}
        {row("Mass", () => `${plain(w.massPerMetre * 1e3, 0)} g/m`, true)}
        {st[0]!.ex > 0 && row("Wall Ex, Gxy", (e) => `${plain(st[e]!.ex / 1e9, 1)}, ${plain(st[e]!.gxy / 1e9, 1)} GPa`)}
        {st[0]!.ex > 0 && row("Bending EI", (e) => stiff(st[e]!.bending[0]!))}
        {st[0]!.ex > 0 &&
          Math.abs(st[0]!.bending[1]! / st[0]!.bending[0]! - 1) > 0.001 &&
          row("EI about the other axis", (e) => stiff(st[e]!.bending[1]!))}
        {st[0]!.ex > 0 && row("Torsion GJ", (e) => stiff(st[e]!.torsion))}
      </tbody>
    </Table>
  );
}

function Fits({ w }: { w: Schemas["RolledAnalysis"] }) {
  const f = w.fits;
  if (!f) return null;
  return (
    <div>
      <Mark tone={f.met ? (f.surely ? "met" : "attend") : "stop"}>
        {f.met
          ? f.surely
            ? "The outside is within tolerance, also at the limits of all materials."
            : `The outside fits as nominal; the materials’ tolerances are ± ${told.size(f.spread, 2)} across.`
          : `The outside is ${told.size(Math.abs(f.off), 2)} ${f.off > 0 ? "too large" : "too small"}.`}
      </Mark>
      {f.remedies.length > 0 && (
        <>
          {" "}
          Options:
          <ul style={{ margin: "4px 0 0" }}>
            {f.remedies.map((m) => (
              <li key={m.message}>
                {said(m.message)}: {Math.abs(m.off) < 5e-7 ? "meets it" : `${told.size(Math.abs(m.off), 2)} off`}
              </li>
            ))}
          </ul>
        </>
      )}
    </div>
  );
}

function TapeAndPull({ w, message }: { w: Schemas["RolledAnalysis"]; message: string | undefined }) {
  const { tape, pull } = w;
  return (
    <>
      {tape && (
        <div>
          <Heading>Tape</Heading>
          Overlaps {percent(tape.overlap)} %, {plain(tape.turns, 0)} turns a layer, {told.run(tape.length, 1)} each,{" "}
          <b>{told.run(tape.whole, 1)} on the spool</b>
          {tape.pressure > 0 &&
            `; presses by about ${told.pressure(tape.pressure)} where the section is roundest, ${told.pressure(tape.least)} where it is flattest (an estimate from its tension; the maker’s data sheet rules)`}
          .
          {tape.findings.map((f) => (
            <div key={f}>
              <Mark tone="attend">{said(f)}</Mark>
            </div>
          ))}
        </div>
      )}
      {pull && (
        <div>
          <Heading>Pulling the mandrel</Heading>
          {pull.gap >= 0
            ? `Cool, it is ${told.size(pull.gap, 3)} clear all across.`
            : `Cool, the wall grips it by ${told.size(-pull.gap, 3)} across: about ${plain(pull.force / 1e3, 1)} kN to break it loose (an estimate).`}
          {pull.free > 0 && ` On its taper it is free after ${told.size(pull.free, 0)}.`}
          {pull.warning && (
            <div>
              <Mark tone="stop">{said(pull.warning)}</Mark>
            </div>
          )}
        </div>
      )}
      {message && <Mark tone="attend">{said(message)}</Mark>}
    </>
  );
}

/** What is known of a sheet. */
function factsOf(s: Schemas["RolledSheet"]) {
  const bends = Math.abs(s.angleDeg[1]! - s.angleDeg[0]!) > 0.05;
  const facts: [string, string][] = [
    [
      "Fibre from the axis",
      s.how === "braid"
        ? `± ${plain(s.angleDeg[0]!, 1)}°${bends ? ` to ± ${plain(s.angleDeg[1]!, 1)}°` : ""}`
        : bends
          ? `${plain(s.angleDeg[0]!, 1)}° to ${plain(s.angleDeg[1]!, 1)}° over the sheet`
          : signed(+s.angleDeg[0]!.toFixed(1)),
    ],
    ["Mid-surface depth", told.size(s.depth, 3)],
    [
      "Perimeter",
      told.size(s.perimeter[0]!, 2) +
        (Math.abs(s.perimeter[0]! - s.perimeter[1]!) > 1e-6 ? ` to ${told.size(s.perimeter[1]!, 2)}` : ""),
    ],
  ];
  if (s.how === "wrap") facts.push(["Seam", `${plain(s.seamDeg, 0)}° round, ${told.size(s.seam[0]!)} along it`]);
  if (s.pitch) facts.push(["Pitch", told.size(s.pitch)]);
  if (s.how === "strips")
    facts.push([
      "Strips",
      `${s.pieces}, ${s.covered[0]! >= 0 ? "overlapping" : "gaping"} ${percent(Math.abs(s.covered[0]!), 1)} %` +
        (Math.abs(s.covered[0]! - s.covered[1]!) > 1e-3 ? ` to ${percent(s.covered[1]!, 1)} % at the last end` : ""),
    ]);
  facts.push(["Area, mass", `${told.area(s.area, 3)}, ${plain(s.mass * 1e3, 0)} g`]);
  return facts;
}

/** All sheets: the table is the same facts as the drawings. */
function Sheets({
  w,
  keys,
  labels,
  chosen,
  choose,
}: {
  w: Schemas["RolledAnalysis"];
  keys: string[];
  labels: Map<string, string>;
  chosen: number;
  choose: (k: number) => void;
}) {
  return (
    <Table>
      <thead>
        <tr>
          <th>Sheet</th>
          <th>Shape</th>
          <th className="n">Fibre</th>
          <th className="n">Long</th>
          <th className="n">Wide</th>
          <th className="n">Seam</th>
          <th className="n">Outside after</th>
        </tr>
      </thead>
      <tbody>
        {w.sheets.map((s, k) => (
          <tr key={keys[k] ?? k} className={k === chosen ? "on" : undefined}>
            <td>
              <Button $quiet $small aria-label={`Show ${s.name}`} aria-pressed={k === chosen} onPress={() => choose(k)}>
                {labels.get(keys[k] ?? "") ?? s.name}
              </Button>
            </td>
            <td>
              {s.shape}
              {s.turns > 1 && ` ×${s.turns}`}
            </td>
            <td className="n">
              {s.how === "braid" && "± "}
              {signed(Math.round((s.angleDeg[0]! + s.angleDeg[1]!) / 2))}
            </td>
            <td className="n">{told.size(s.length)}</td>
            <td className="n">{told.size(s.across)}</td>
            <td className="n">{s.how === "wrap" ? `${plain(s.seamDeg, 0)}°` : ""}</td>
            <td className="n">{told.size(s.outside[0]!, 2)}</td>
          </tr>
        ))}
      </tbody>
    </Table>
  );
}
