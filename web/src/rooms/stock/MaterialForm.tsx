// A material's form: what it is called, of what it is made, how it may lie, its figures.
import { drape, lives, ply, stiff, type Field } from "./materialFields";
import { useState, type FormEvent } from "react";
import { useChange } from "../../app/api";
import type { Schemas } from "../../contract/types";
import { readNumber } from "../../ui/number";
import {
  Big,
  Button,
  Heading,
  Mark,
  NumberField,
  NumbersField,
  Refusal,
  Row,
  SelectField,
  Stack,
  TextField,
} from "../../ui/parts";
import { Paper } from "./Receive";
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

export function MaterialForm({
  m,
  resins,
  done,
}: {
  m?: Material;
  resins: Schemas["ResinView"][];
  done: (family?: number) => void;
}) {
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
