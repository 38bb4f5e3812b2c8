// A part's revision: the plies in plan on the left, the stack in section with
// what is worked out on the right, beside the revision before it.
import { useState, type FormEvent } from "react";
import { Link, useParams, useSearchParams } from "react-router";
import styled from "styled-components";
import { api, useChange, type Schemas } from "../app/api";
import { useKeys } from "../app/keys";
import { useSession } from "../app/session";
import { useTitle } from "../app/shell";
import { angle, kPa, mm, moment, percent, ranges, spell } from "../ui/format";
import { Plan } from "../ui/Hatch";
import { Big, Button, Heading, Key, Loading, Mark, Refusal, Row, Select, Stack, Table, TextField } from "../ui/parts";
import { Seam, type Difference } from "../ui/Seam";
import { Section } from "../ui/Section";
import { Sign } from "../ui/Sign";

type Revision = Schemas["RevisionView"];
const rules: Record<string, string> = {
  symmetry: "no mirror partner",
  balance: "not balanced",
  share: "share",
  run: "too many in a row",
};
type Ply = Schemas["PlyView"];

const Drawn = styled.div`
  max-width: 600px;
`;

export function PartPage() {
  const { code = "" } = useParams();
  const [query, setQuery] = useSearchParams();
  const letter = query.get("revision") ?? undefined;
  const part = api.useQuery("get", "/api/parts/{code}", { params: { path: { code }, query: { letter } } });
  const { may } = useSession();
  const release = useChange("/api/parts/{code}/release");
  const renew = useChange("/api/parts/{code}/revisions", () => setQuery({}));
  const change = useChange("/api/parts/{code}/draft");
  const [mode, setMode] = useState<"look" | "build" | "edit">("look");
  const [shown, setShown] = useState<number | undefined>();
  const v = part.data;
  const draft = v?.state === "draft";
  useTitle(v ? `${v.part.number} ${v.letter}` : "Part");
  useKeys({
    v: { says: "start a new revision", run: () => renew.mutate({ code }), off: !v || v.part.draft !== undefined },
    s: { says: "start a build", run: () => setMode("build"), off: !v?.part.released },
    e: { says: "edit the plies of the draft", run: () => setMode("edit"), off: !draft },
    Escape: {
      says: "back to the whole part",
      run: () => (setMode("look"), setShown(undefined)),
      off: mode === "look" && shown === undefined,
    },
  });
  if (!v) return <Loading error={part.error} />;
  const differences: Difference[] = v.changed.slice(0, 8).map((n) => ({ says: `+ ply ${n}`, tone: "plain" }));
  if (v.changed.length > 8) differences.push({ says: `${v.changed.length - 8} more`, tone: "plain" });
  if (v.gone > 0) differences.push({ says: `− ${v.gone} of ${v.against}`, tone: "plain" });
  for (const f of new Set(v.worked?.zones.flatMap((z) => z.worked.findings.map((x) => x.rule))))
    differences.push({ says: rules[f] ?? f, tone: "stop" });
  const zones = v.worked?.zones ?? [];
  return (
    <Seam
      left={mode === "edit" && draft ? "minmax(0, 1.7fr)" : "minmax(0, 1fr)"}
      names={["The master", "Worked out"]}
      differences={differences}
      planned={
        <>
          <Row $between $top>
            <div>
              <Heading>
                {v.part.number}, made on {v.process.tool}
              </Heading>
              <Big>{v.part.name}</Big>
            </div>
            <label>
              Revision{" "}
              <Select value={v.letter} onChange={(e) => setQuery({ revision: e.target.value })}>
                {v.letters.map((l) => (
                  <option key={l} value={l}>
                    {l}
                  </option>
                ))}
              </Select>{" "}
              {draft ? <Mark tone="attend">draft</Mark> : <Mark tone="met">released</Mark>}
            </label>
          </Row>
          {mode === "edit" && draft ? (
            <EditPlies key={v.version} v={v} code={code} close={() => setMode("look")} />
          ) : (
            <>
              <Drawn>
                <Plan
                  plies={v.plies}
                  shown={shown}
                  width={560}
                  height={300}
                  label={`Plan of ${v.part.name}: ${v.plies.length} plies from the datum`}
                />
              </Drawn>
              <PlyTable plies={v.plies} changed={v.changed} shown={shown} show={setShown} />
            </>
          )}
        </>
      }
      built={
        <Stack $gap={12}>
          <Heading>{v.against ? `Against revision ${v.against}` : "First revision"}</Heading>
          <Refusal error={release.error ?? renew.error ?? change.error} />
          {mode === "build" ? (
            <StartBuild code={code} builds={v.builds} close={() => setMode("look")} />
          ) : (
            <Row>
              {draft ? (
                <>
                  {may("release a revision") && (
                    <Sign
                      says={`Release revision ${v.letter}`}
                      busy={release.isPending}
                      sign={(pin) => release.mutate({ code, body: { version: v.version, pin } })}
                    />
                  )}
                  <Button $quiet onPress={() => setMode("edit")}>
                    Edit plies
                  </Button>
                </>
              ) : (
                <span style={{ flex: 1 }}>
                  Released by {v.signedBy}, {v.signedAt && moment(v.signedAt)}
                </span>
              )}
              {!v.part.draft && (
                <Button $quiet onPress={() => renew.mutate({ code })}>
                  New revision
                </Button>
              )}
              {v.part.released && (
                <Button $quiet={draft} onPress={() => setMode("build")}>
                  Start a build to {v.part.released}
                </Button>
              )}
            </Row>
          )}
          <Section plies={v.plies} changed={v.changed} width={600} height={176} label="The stack in section, ply 1 on the tool" />
          <Table>
            <thead>
              <tr>
                <th>Worked out</th>
                {v.before && <th className="n">{v.against}</th>}
                <th className="n">{v.letter}</th>
              </tr>
            </thead>
            <tbody>
              <Figure name="Mass as laid" before={v.before?.mass} now={v.worked?.mass} show={(m) => `${m.toFixed(3)} kg`} />
              {zones.map((z, i) => (
                <Zone
                  key={i}
                  z={z}
                  before={v.before?.zones[i]}
                  span={v.worked!.span}
                  name={i === 0 ? "Field" : `Reinforcement ${i}`}
                  columns={v.before ? 3 : 2}
                />
              ))}
            </tbody>
          </Table>
          <Process p={v.process} />
          {v.builds.length > 0 && (
            <p>
              Built to {v.letter}:{" "}
              {v.builds.map((b) => (
                <span key={b.code}>
                  <Link to={`/thread/${b.code}`}>{b.serial}</Link> <small>{b.stage}</small>{" "}
                </span>
              ))}
            </p>
          )}
          <p style={{ color: "var(--g1)", fontSize: 15 }}>
            Rules follow the shop’s list; the engineer of record decides. A second person releases. <Key>E</Key> edit ·{" "}
            <Key>S</Key> start a build
          </p>
        </Stack>
      }
    />
  );
}

function Figure({ name, before, now, show }: { name: string; before?: number; now?: number; show: (v: number) => string }) {
  return (
    <tr>
      <td>{name}</td>
      {before !== undefined && <td className="n">{show(before)}</td>}
      <td className="n">{now === undefined ? "" : show(now)}</td>
    </tr>
  );
}

type ZoneView = Schemas["ZoneView"];

function Zone({
  z,
  before,
  span,
  name,
  columns,
}: {
  z: ZoneView;
  before?: ZoneView;
  span: number;
  name: string;
  columns: number;
}) {
  const w = z.worked;
  const row = (label: string, show: (o: ZoneView) => string) => (
    <tr>
      <td>{label}</td>
      {columns > 2 && <td className="n">{before ? show(before) : ""}</td>}
      <td className="n">{show(z)}</td>
    </tr>
  );
  return (
    <>
      <tr>
        <td colSpan={columns} style={{ paddingTop: 12 }}>
          <b>{name}</b>{" "}
          <small>
            plies {ranges(z.plies)}, {(z.area * 1e4).toFixed(0)} cm²
          </small>{" "}
          {w.findings.length === 0 ? (
            <Mark tone="met">symmetric, balanced</Mark>
          ) : (
            w.findings.map((f) => (
              <div key={f.says}>
                <Mark tone="stop">{f.says}</Mark>
              </div>
            ))
          )}
        </td>
      </tr>
      {row("Cured thickness", (o) => `${mm(o.worked.thickness, 2)} mm`)}
      {row(
        `Shares at ${w.shares.map((s) => angle(s.angleDeg)).join(" / ")}`,
        (o) => `${o.worked.shares.map((s) => percent(s.part)).join(" / ")} %`,
      )}
      {row(`Warp over ${span} m`, (o) => `${mm(o.worked.bow)} mm`)}
    </>
  );
}

function PlyTable({
  plies,
  changed,
  shown,
  show,
}: {
  plies: Ply[];
  changed: number[];
  shown?: number;
  show: (n?: number) => void;
}) {
  return (
    <Close>
      <thead>
        <tr>
          <th>Ply</th>
          <th>Material</th>
          <th className="n">Angle</th>
          <th>Shape</th>
          <th>Face</th>
          <th className="n">mm</th>
        </tr>
      </thead>
      <tbody>
        {plies.map((p) => (
          <tr key={p.number} className={changed.includes(p.number) || p.number === shown ? "on" : undefined}>
            <td>
              <Show
                type="button"
                aria-pressed={p.number === shown}
                onClick={() => show(p.number === shown ? undefined : p.number)}
              >
                {p.number}
              </Show>
            </td>
            <td>{p.material}</td>
            <td className="n">{angle(p.angleDeg)}</td>
            <td>{p.shape}</td>
            <td>{p.woven ? `warp ${p.faceUp ? "up" : "down"}` : p.faceUp ? "up" : "down"}</td>
            <td className="n">{mm(p.thickness, 3)}</td>
          </tr>
        ))}
      </tbody>
    </Close>
  );
}

const Close = styled(Table)`
  td {
    padding-top: 2px;
    padding-bottom: 2px;
  }
`;

const Show = styled.button`
  font: inherit;
  font-weight: 700;
  min-width: 40px;
  min-height: 32px;
  border: 1px solid var(--g3);
  background: transparent;
  color: inherit;
  cursor: pointer;
  &[aria-pressed="true"] {
    background: var(--chosen);
    color: var(--on-chosen);
  }
`;

function Process({ p }: { p: Schemas["Process"] }) {
  return (
    <p style={{ fontSize: 15.5 }}>
      <b>Made by:</b> debulk {p.debulkFirst ? "after ply 1, then " : ""}every {p.debulkEvery} plies, {spell(p.debulkSeconds)} at{" "}
      {kPa(p.debulkVacuum, 0)} kPa · bag “{p.bagStack}”, leak at most {kPa(p.leakDrop)} kPa in {spell(p.leakSeconds)} ·{" "}
      {p.recipe.name} · mass ±{percent(p.massTolerance)} %, thickness ±{percent(p.thicknessTolerance)} %
    </p>
  );
}

function StartBuild({ code, builds, close }: { code: string; builds: Schemas["BuildLine"][]; close: () => void }) {
  const start = useChange("/api/parts/{code}/builds", close);
  const next = String(Math.max(0, ...builds.map((b) => Number(b.serial) || 0)) + 1).padStart(4, "0");
  const [serial, setSerial] = useState(next);
  const tomorrow = new Date(Date.now() + 30 * 3600e3);
  tomorrow.setMinutes(0, 0, 0);
  const local = new Date(tomorrow.getTime() - tomorrow.getTimezoneOffset() * 60e3).toISOString().slice(0, 16);
  const [cureAt, setCureAt] = useState(local);
  const submit = (e: FormEvent) => {
    e.preventDefault();
    start.mutate({ code, body: { serial, cureAt: new Date(cureAt).toISOString() } });
  };
  return (
    <form onSubmit={submit}>
      <Stack $gap={10}>
        <Row $top>
          <TextField label="Serial" value={serial} onChange={setSerial} autoFocus isRequired />
          <TextField label="Cure planned to start" type="datetime-local" value={cureAt} onChange={setCureAt} isRequired />
        </Row>
        <Refusal error={start.error} />
        <Row>
          <Button type="submit" isDisabled={start.isPending}>
            Start the build
          </Button>
          <Button $quiet onPress={close}>
            Leave it
          </Button>
        </Row>
      </Stack>
    </form>
  );
}

/** Angles, materials, faces, places and order of a draft, one row a ply. */
function EditPlies({ v, code, close }: { v: Revision; code: string; close: () => void }) {
  const materials = api.useQuery("get", "/api/materials");
  const save = useChange("/api/parts/{code}/draft", close);
  const [rows, setRows] = useState(v.plies.map((p, i) => ({ ...p, id: i })));
  const set = (i: number, part: Partial<Ply>) => setRows(rows.map((r, k) => (k === i ? { ...r, ...part } : r)));
  const move = (i: number, by: number) => {
    const next = [...rows];
    const [row] = next.splice(i, 1);
    next.splice(i + by, 0, row!);
    setRows(next);
  };
  const submit = (e: FormEvent) => {
    e.preventDefault();
    const plies = rows.map((r, i) => {
      // The outline goes back into the ply's own axes.
      const was = v.plies.find((p) => p.number === r.number) ?? v.plies[i]!;
      const outline = r.outline.map(([x, y]) => [x! - was.x, y! - was.y]);
      return { shape: r.shape, materialId: r.materialId, angleDeg: r.angleDeg, faceUp: r.faceUp, x: r.x, y: r.y, outline };
    });
    save.mutate({ code, body: { version: v.version, plies } });
  };
  return (
    <form onSubmit={submit}>
      <Close style={{ whiteSpace: "nowrap" }}>
        <thead>
          <tr>
            <th>Ply</th>
            <th>Material</th>
            <th>Angle, °</th>
            <th>Face</th>
            <th>x, y in mm</th>
            <th>Order</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((r, i) => (
            <tr key={r.id}>
              <td>
                <b>{i + 1}</b> <small>{r.shape}</small>
              </td>
              <td>
                <Select
                  aria-label={`Material of ply ${i + 1}`}
                  value={r.materialId}
                  onChange={(e) => set(i, { materialId: Number(e.target.value) })}
                >
                  {materials.data?.map((m) => (
                    <option key={m.id} value={m.id}>
                      {m.name}
                    </option>
                  ))}
                </Select>
              </td>
              <td>
                <Cell
                  aria-label={`Angle of ply ${i + 1}`}
                  type="number"
                  step="any"
                  value={r.angleDeg}
                  onChange={(e) => set(i, { angleDeg: Number(e.target.value) })}
                />
              </td>
              <td>
                <Select
                  aria-label={`Face of ply ${i + 1}`}
                  value={r.faceUp ? "up" : "down"}
                  onChange={(e) => set(i, { faceUp: e.target.value === "up" })}
                >
                  <option>up</option>
                  <option>down</option>
                </Select>
              </td>
              <td>
                <Cell
                  aria-label={`x of ply ${i + 1}`}
                  type="number"
                  step="any"
                  value={+(r.x * 1e3).toFixed(3)}
                  onChange={(e) => set(i, { x: Number(e.target.value) / 1e3 })}
                />
                <Cell
                  aria-label={`y of ply ${i + 1}`}
                  type="number"
                  step="any"
                  value={+(r.y * 1e3).toFixed(3)}
                  onChange={(e) => set(i, { y: Number(e.target.value) / 1e3 })}
                />
              </td>
              <td>
                <Show type="button" aria-label={`Ply ${i + 1} nearer the tool`} disabled={i === 0} onClick={() => move(i, -1)}>
                  ↑
                </Show>
                <Show
                  type="button"
                  aria-label={`Repeat ply ${i + 1}`}
                  onClick={() =>
                    setRows([...rows.slice(0, i + 1), { ...r, id: Math.max(...rows.map((x) => x.id)) + 1 }, ...rows.slice(i + 1)])
                  }
                >
                  +
                </Show>
                <Show type="button" aria-label={`Leave ply ${i + 1} out`} onClick={() => setRows(rows.filter((_, k) => k !== i))}>
                  −
                </Show>
              </td>
            </tr>
          ))}
        </tbody>
      </Close>
      <Refusal error={save.error} />
      <Row style={{ marginTop: 12 }}>
        <Button type="submit" isDisabled={save.isPending}>
          Keep the draft
        </Button>
        <Button $quiet onPress={close}>
          Leave it
        </Button>
      </Row>
    </form>
  );
}

const Cell = styled.input`
  font: inherit;
  font-variant-numeric: tabular-nums;
  width: 74px;
  min-height: 36px;
  border: 1.5px solid var(--ink);
  background: transparent;
  color: inherit;
  padding: 0 6px;
`;
