// Materials: what the data sheets say, in versions; and the resin systems.
import { drape, lives, ply, stiff, type Field } from "./materialFields";
import { useState, type FormEvent, type ReactNode } from "react";
import { useParams, useNavigate, Link } from "react-router";
import { api, useChange } from "../../app/api";
import type { Schemas } from "../../contract/types";
import { useSession } from "../../app/session";
import { useTitle } from "../../app/shell";
import { date, percent, told } from "../../ui/format";
import { readNumber } from "../../ui/number";
import {
  Big,
  Button,
  Caution,
  Empty,
  Heading,
  Loading,
  Mark,
  NumberField,
  NumbersField,
  Refusal,
  Row,
  Rule,
  SelectField,
  Stack,
  Table,
  TextField,
} from "../../ui/parts";
import { Seam } from "../../ui/Seam";
import { Paper } from "./Receive";
import { EditResin, Resins } from "./Resins";
import { FreezerTabs } from "./tabs";
import type { JSX } from "react";

type Material = Schemas["MaterialView"];
type In = Schemas["MaterialIn"];

const kinds: In["kind"][] = [
  "unidirectional",
  "woven",
  "film adhesive",
  "core",
  "paste adhesive",
  "sleeve",
  "dry fabric",
  "liquid resin",
  "consumable",
];

export function Materials() {
  useTitle("Materials");
  const { id } = useParams();
  const navigate = useNavigate();
  const { may } = useSession();
  const materials = api.useQuery("get", "/api/materials");
  const resins = api.useQuery("get", "/api/resins");
  const [editing, setEditing] = useState<"new" | "old" | null>(null);
  const [resin, setResin] = useState<Schemas["ResinView"] | "new" | null>(null);
  if (!materials.data || !resins.data) return <Loading error={materials.error ?? resins.error} />;
  const chosen = materials.data.find((m) => String(m.family) === id) ?? materials.data[0];
  const keep = may("manage materials and resins");
  return (
    <>
      <FreezerTabs />
      <Seam
        left="minmax(0, 0.5fr)"
        names={["Materials", "Its data sheet"]}
        planned={
          <Stack $gap={10}>
            <MaterialsHead keep={keep} setResin={setResin} setEditing={setEditing} />
            {materials.data.length === 0 && (
              <Empty>No material yet. Enter the resins below first, then what is made with them.</Empty>
            )}
            <Table>
              <tbody>
                {materials.data.map((m) => (
                  <tr key={m.id} className={m === chosen && editing !== "new" && !resin ? "on" : undefined}>
                    <td>
                      <Link
                        to={`/freezer/materials/${m.family}`}
                        onClick={() => {
                          setEditing(null);
                          setResin(null);
                        }}
                      >
                        <b style={{ fontSize: 18 }}>{m.name}</b>
                      </Link>
                      <br />
                      <small>
                        {m.kind}
                        {m.version > 1 && `, version ${m.version}`}
                      </small>
                    </td>
                    <td className="n">{m.width > 0 && `${told.size(m.width, 0)}`}</td>
                    <td className="n">{m.onHand} on hand</td>
                  </tr>
                ))}
              </tbody>
            </Table>
            <Rule />
            <Resins resins={resins.data} edit={keep ? setResin : undefined} />
          </Stack>
        }
        built={
          resin ? (
            <EditResin
              key={resin === "new" ? 0 : resin.id}
              r={resin === "new" ? null : resin}
              done={() => setResin(null)}
            />
          ) : editing ? (
            <Edit
              key={editing === "new" ? "new" : chosen?.id}
              m={editing === "old" ? chosen : undefined}
              resins={resins.data}
              done={(family) => {
                setEditing(null);
                if (family) void navigate(`/freezer/materials/${family}`);
              }}
            />
          ) : chosen ? (
            <Look m={chosen} keep={keep} edit={() => setEditing("old")} />
          ) : null
        }
      />
    </>
  );
}

function Look({ m, keep, edit }: { m: Material; keep: boolean; edit: () => void }) {
  const versions = api.useQuery("get", "/api/materials/{id}/versions", { params: { path: { id: m.family } } });
  const s = m.sheet;
  const row = (label: string, value: ReactNode, show: unknown) =>
    show ? (
      <tr>
        <td>{label}</td>
        <td>{value}</td>
      </tr>
    ) : null;
  const h = (sec?: number) => sec && `${Math.round(sec / 3600)} h`;
  return (
    <Stack $gap={10}>
      <MaterialHead m={m} keep={keep} edit={edit} />
      <div
        style={{
          display: "grid",
          gridTemplateColumns: "repeat(auto-fit, minmax(260px, 1fr))",
          gap: "0 28px",
          alignItems: "start",
        }}
      >
        <Table>
          <tbody>
            {row("Resin", m.resin, m.resin)}
            {row("Width", `${told.size(m.width, 0)}`, m.width)}
            {row("Sold in widths of", s.widths?.map((w) => told.size(w, 0)).join(", "), s.widths?.length)}
            {row("Cured thickness", `${told.size(m.thickness ?? 0, 3)}`, m.thickness)}
            {row("Bulk factor before cure", s.bulkFactor, s.bulkFactor)}
            {row("Thickness tolerance", `± ${percent(s.thicknessTolerance ?? 0, 1)} %`, s.thicknessTolerance)}
            {row("Locks at a shear of", `${s.lockDeg}°`, s.lockDeg)}
            {row("Spliced with an overlap of", told.size(s.spliceOverlap ?? 0), s.spliceOverlap)}
            {row("Steered round at least", told.size(s.steerRadius ?? 0, 0), s.steerRadius)}
            {row(
              "Sleeve as made",
              `${told.size(s.sleeveDiameter ?? 0)}, yarns at ±${s.sleeveAngleDeg}°`,
              s.sleeveDiameter,
            )}
            {row("Areal mass", `${((m.arealMass ?? 0) * 1e3).toFixed(0)} g/m²`, m.arealMass)}
            {row("of it fibre", `${((s.fibreMass ?? 0) * 1e3).toFixed(0)} g/m²`, s.fibreMass)}
            {row("Resin share", `${((s.resinShare ?? 0) * 100).toFixed(0)} %`, s.resinShare)}
            {row(
              "Weave",
              `${s.weave}${s.warpEqualsWeft ? ", warp equals weft" : ""}${m.asymmetricWeave ? ", faces differ" : ""}`,
              s.weave,
            )}
            {row(
              "Backing",
              [s.filmUp && `up: ${s.filmUp}`, s.filmDown && `down: ${s.filmDown}`].filter(Boolean).join(", "),
              s.filmUp || s.filmDown,
            )}
            {row(
              "In a nest",
              m.halfTurn ? "may be turned by 180°" : "never turned",
              m.kind === "unidirectional" || m.kind === "woven",
            )}
            {row("Density", `${s.density} kg/m³`, s.density)}
            {row("Pressure limit in cure", told.pressure(s.compressionLimit ?? 0), s.compressionLimit)}
            {row("Mix ratio", s.mixRatio, s.mixRatio)}
            {row("Pot life", `${Math.round((s.potLife ?? 0) / 60)} min`, s.potLife)}
          </tbody>
        </Table>
        <Table>
          <tbody>
            {row("Out-life", h(m.outLife), m.outLife)}
            {row("Tack life", h(m.tackLife), m.tackLife)}
            {row("Storage", `${told.degrees(s.storageMax ?? 0)} or colder`, s.storageMax)}
            {row("Shelf life", `${Math.round((s.shelfLife ?? 0) / 86400)} days`, s.shelfLife)}
            {row("E1, E2", `${((m.e1 ?? 0) / 1e9).toFixed(1)}, ${((m.e2 ?? 0) / 1e9).toFixed(1)} GPa`, m.e1)}
            {row("G12, ν12", `${((m.g12 ?? 0) / 1e9).toFixed(2)} GPa, ${m.nu12}`, m.g12)}
            {row(
              "Expansion",
              `${((m.alpha1 ?? 0) * 1e6).toFixed(1)}, ${((m.alpha2 ?? 0) * 1e6).toFixed(1)} µm/(m K)`,
              m.e1,
            )}
            {s.acceptance?.map((a) => (
              <tr key={a.what}>
                <td>Accepted by {a.what}</td>
                <td>
                  {a.least} to {a.most} {a.unit}
                </td>
              </tr>
            ))}
            {row(
              "Data sheet",
              m.dataSheet && <a href={`/api/files/${m.dataSheet.id}`}>{m.dataSheet.name}</a>,
              m.dataSheet,
            )}
          </tbody>
        </Table>
      </div>
      {s.caution && <Caution>{s.caution}</Caution>}
      {m.inUse && <p>In use: a change makes a new version, and what was built keeps this one.</p>}
      {(versions.data?.length ?? 0) > 1 && (
        <Table>
          <thead>
            <tr>
              <th>Version</th>
              <th>Out-life</th>
              <th>Thickness</th>
              <th>Until</th>
              <th className="n">Rolls on hand</th>
            </tr>
          </thead>
          <tbody>
            {versions.data?.map((v) => (
              <tr key={v.id}>
                <td>
                  {v.version} <small>{v.name}</small>
                </td>
                <td>{h(v.outLife)}</td>
                <td>{told.size(v.thickness ?? 0, 3)}</td>
                <td>{v.supersededAt ? date(v.supersededAt) : <Mark tone="met">present</Mark>}</td>
                <td className="n">{v.onHand}</td>
              </tr>
            ))}
          </tbody>
        </Table>
      )}
    </Stack>
  );
}

function Edit({ m, resins, done }: { m?: Material; resins: Schemas["ResinView"][]; done: (family?: number) => void }) {
  const add = useChange("/api/materials", (v) => done(v.family));
  const change = useChange("/api/materials/{id}", (v) => done(v.family));
  const [form, setForm] = useState<In>(
    m
      ? {
          name: m.name,
          kind: m.kind,
          resinId: m.resinId,
          width: m.width,
          e1: m.e1,
          e2: m.e2,
          nu12: m.nu12,
          g12: m.g12,
          alpha1: m.alpha1,
          alpha2: m.alpha2,
          thickness: m.thickness,
          arealMass: m.arealMass,
          asymmetricWeave: m.asymmetricWeave,
          halfTurn: m.halfTurn,
          films: m.films,
          outLife: m.outLife,
          tackLife: m.tackLife,
          sheet: m.sheet,
          dataSheetId: m.dataSheetId,
        }
      : { name: "", kind: "unidirectional", width: 0, halfTurn: true, sheet: {}, resinId: resins[0]?.id },
  );
  const [stock, setStock] = useState(false);
  const [tests, setTests] = useState(
    (m?.sheet.acceptance ?? []).map((a) => [a.what, a.least ?? "", a.most ?? "", a.unit].join("; ")).join("\n"),
  );
  const [file, setFile] = useState<{ id: number; name: string } | null>(m?.dataSheet ?? null);
  const [wrong, setWrong] = useState("");
  const submit = (e: FormEvent) => {
    e.preventDefault();
    const acceptance: Schemas["AcceptanceLimit"][] = [];
    for (const line of tests.split("\n").map((l) => l.split(";").map((x) => x.trim()))) {
      const [what = "", least = "", most = "", unit = "", ...rest] = line;
      if (line.every((x) => x === "")) continue;
      const [l, m] = [readNumber(least), readNumber(most)];
      const fault =
        "message" in l
          ? l.message
          : "message" in m
            ? m.message
            : rest.length > 0 || what === ""
              ? "what; least; most; unit"
              : "";
      if (fault) {
        setWrong(`Acceptance test “${line.join("; ")}”: ${fault}`);
        return;
      }
      acceptance.push({
        what,
        unit,
        ...("value" in l ? { least: l.value } : {}),
        ...("value" in m ? { most: m.value } : {}),
      });
    }
    setWrong("");
    const body = { ...form, sheet: { ...form.sheet, acceptance }, ...(file ? { dataSheetId: file.id } : {}) };
    if (m) change.mutate({ id: m.family, body: { ...body, version: m.version, stock } });
    else add.mutate({ body });
  };
  const figures = (of: Field[]) => <MaterialFigures of={of} form={form} setForm={setForm} />;
  const text = (key: "weave" | "filmUp" | "filmDown" | "mixRatio" | "caution", label: string) => (
    <TextField
      label={label}
      value={form.sheet[key] ?? ""}
      onChange={(v) => setForm({ ...form, sheet: { ...form.sheet, [key]: v } })}
    />
  );
  return (
    <form onSubmit={submit}>
      <Stack $gap={12}>
        <Big>{m ? `Change ${m.name}` : "A new material"}</Big>
        <MaterialName form={form} setForm={setForm} resins={resins} />
        {figures(ply)}
        <Heading>Draping</Heading>
        {figures(drape)}
        <Heading>Lives</Heading>
        {figures(lives)}
        <Heading>Stiffness, expansion, strength</Heading>
        {figures(stiff)}
        <FibreAndWeave form={form} setForm={setForm} text={text} />
        <FacesAndTurns form={form} setForm={setForm} />
        <AcceptanceText tests={tests} setTests={setTests} />
        {text("caution", "Handling, as the supplier words it")}
        <Paper label="Data sheet" kept={file} keep={setFile} />
        {m?.inUse && (
          <label>
            <input type="checkbox" checked={stock} onChange={(e) => setStock(e.target.checked)} /> rolls on hand and
            drafts follow the new version (without it, only what comes later does)
          </label>
        )}
        {wrong && <Mark tone="stop">{wrong}</Mark>}
        <Refusal error={add.error ?? change.error} />
        <Row>
          <Button
            type="submit"
            why={form.name.trim() === "" ? "Enter its name." : ""}
            isDisabled={add.isPending || change.isPending}
          >
            {m ? (m.inUse ? `Keep as version ${m.version + 1}` : "Keep the change") : "Enter the material"}
          </Button>
          <Button $quiet onPress={() => done()}>
            Cancel
          </Button>
        </Row>
      </Stack>
    </form>
  );
}

/** What page it is, and a new material. */
function MaterialsHead({
  keep,
  setResin,
  setEditing,
}: {
  keep: boolean;
  setResin: (
    value:
      | null
      | Schemas["ResinView"]
      | "new"
      | ((prevState: null | Schemas["ResinView"] | "new") => null | Schemas["ResinView"] | "new"),
  ) => void;
  setEditing: (value: null | "old" | "new" | ((prevState: null | "old" | "new") => null | "old" | "new")) => void;
}) {
  return (
    <Row $between>
      <div>
        <Heading>By name</Heading>
        <Big>Materials</Big>
      </div>
      {keep && (
        <Button
          $quiet
          onPress={() => {
            setResin(null);
            setEditing("new");
          }}
        >
          A new material
        </Button>
      )}
    </Row>
  );
}

/** How it may lie and turn. */
function FacesAndTurns({
  form,
  setForm,
}: {
  form: Schemas["MaterialIn"];
  setForm: (value: Schemas["MaterialIn"] | ((prevState: Schemas["MaterialIn"]) => Schemas["MaterialIn"])) => void;
}) {
  return (
    <Row $gap={18}>
      <label>
        <input
          type="checkbox"
          checked={form.asymmetricWeave ?? false}
          onChange={(e) => setForm({ ...form, asymmetricWeave: e.target.checked })}
        />{" "}
        its two faces differ
      </label>
      <label>
        <input
          type="checkbox"
          checked={form.sheet.warpEqualsWeft ?? false}
          onChange={(e) => setForm({ ...form, sheet: { ...form.sheet, warpEqualsWeft: e.target.checked } })}
        />{" "}
        warp equals weft
      </label>
      <label>
        <input
          type="checkbox"
          checked={form.halfTurn ?? false}
          onChange={(e) => setForm({ ...form, halfTurn: e.target.checked })}
        />{" "}
        may be turned by 180° in a nest
      </label>
    </Row>
  );
}

/** What it is called and what resin it has. */
function MaterialName({
  form,
  setForm,
  resins,
}: {
  form: Schemas["MaterialIn"];
  setForm: (value: Schemas["MaterialIn"] | ((prevState: Schemas["MaterialIn"]) => Schemas["MaterialIn"])) => void;
  resins: Schemas["ResinView"][];
}) {
  return (
    <Row $gap={12} style={{ alignItems: "flex-end" }}>
      <div style={{ flex: 1, minWidth: 200 }}>
        <TextField label="Name" value={form.name} onChange={(name) => setForm({ ...form, name })} isRequired />
      </div>
      <SelectField
        label="Kind"
        value={form.kind}
        onChange={(e) => setForm({ ...form, kind: e.target.value as In["kind"] })}
      >
        {kinds.map((k) => (
          <option key={k}>{k}</option>
        ))}
      </SelectField>
      <SelectField
        label="Resin"
        value={form.resinId ?? 0}
        onChange={(e) => setForm({ ...form, resinId: Number(e.target.value) })}
      >
        <option value={0}>none</option>
        {resins.map((r) => (
          <option key={r.id} value={r.id}>
            {r.name}
          </option>
        ))}
      </SelectField>
    </Row>
  );
}

/** What it is made of. */
function FibreAndWeave({
  form,
  setForm,
  text,
}: {
  form: Schemas["MaterialIn"];
  setForm: (value: Schemas["MaterialIn"] | ((prevState: Schemas["MaterialIn"]) => Schemas["MaterialIn"])) => void;
  text: (key: "caution" | "filmDown" | "filmUp" | "mixRatio" | "weave", label: string) => JSX.Element;
}) {
  return (
    <div style={{ display: "grid", gridTemplateColumns: "repeat(auto-fill, minmax(190px, 1fr))", gap: 10 }}>
      <SelectField
        label="Made of"
        value={form.sheet.fibre ?? ""}
        onChange={(e) =>
          setForm({
            ...form,
            sheet: { ...form.sheet, fibre: (e.target.value || undefined) as In["sheet"]["fibre"] },
          })
        }
      >
        <option value="">not said</option>
        {["carbon", "glass", "aramid", "other"].map((f) => (
          <option key={f}>{f}</option>
        ))}
      </SelectField>
      {text("weave", "Weave")}
      {text("filmUp", "Backing, upper face")}
      {text("filmDown", "Backing, lower face")}
      {text("mixRatio", "Mix ratio, by mass")}
      <NumbersField
        label="Widths in which it is sold, mm"
        values={(form.sheet.widths ?? []).map((w) => w * 1e3)}
        onChange={(all) => setForm({ ...form, sheet: { ...form.sheet, widths: all.map((w) => w / 1e3) } })}
      />
    </div>
  );
}

/** The acceptance tests, one a line. */
function AcceptanceText({
  tests,
  setTests,
}: {
  tests: string;
  setTests: (value: string | ((prevState: string) => string)) => void;
}) {
  return (
    <label>
      Acceptance tests, one a line: what; least; most; unit
      <br />
      <textarea
        value={tests}
        onChange={(e) => setTests(e.target.value)}
        rows={3}
        placeholder="resin share; 33; 39; %"
        style={{
          width: "100%",
          font: "inherit",
          padding: 8,
          background: "transparent",
          color: "inherit",
          border: "1.5px solid var(--ink)",
        }}
      />
    </label>
  );
}

/** Figures of a kind, a field each. */
function MaterialFigures({
  of,
  form,
  setForm,
}: {
  of: Field[];
  form: Schemas["MaterialIn"];
  setForm: (value: Schemas["MaterialIn"] | ((prevState: Schemas["MaterialIn"]) => Schemas["MaterialIn"])) => void;
}) {
  return (
    <div style={{ display: "grid", gridTemplateColumns: "repeat(auto-fill, minmax(150px, 1fr))", gap: 10 }}>
      {of.map((f) => {
        const v = f.get(form);
        return (
          <NumberField
            key={f.label}
            label={f.label}
            kelvin={f.kelvin ?? false}
            value={v ? v * f.scale : NaN}
            onChange={(x) => setForm(f.set(form, Number.isNaN(x) ? 0 : x / f.scale))}
          />
        );
      })}
    </div>
  );
}

/** What material it is. */
function MaterialHead({ m, keep, edit }: { m: Schemas["MaterialView"]; keep: boolean; edit: () => void }) {
  return (
    <Row $between>
      <div>
        <Heading>
          {m.kind}, version {m.version}
        </Heading>
        <Big>{m.name}</Big>
      </div>
      {keep && (
        <Button $quiet onPress={edit}>
          Edit
        </Button>
      )}
    </Row>
  );
}
