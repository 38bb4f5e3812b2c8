// Tools: what they are, and what was done to them.
import { useState, type FormEvent } from "react";
import { api, useChange } from "../../app/api";
import type { Schemas } from "../../contract/types";
import { useSession } from "../../app/session";
import { useTitle } from "../../app/shell";
import { moment, told } from "../../ui/format";
import { figure as quantity, fromSize, inSize, unitName } from "../../ui/units";
import { readNumber } from "../../ui/number";
import {
  Big,
  Button,
  Empty,
  Heading,
  Loading,
  Mark,
  Refusal,
  Row,
  SelectField,
  Stack,
  Table,
  TextField,
} from "../../ui/parts";
import { Seam } from "../../ui/Seam";
import { Figure } from "../master/Detail";
import { PartTabs } from "./Tabs";
import type { JSX } from "react";

type Tool = Schemas["ToolView"];
type In = Schemas["ToolIn"];

const kinds: In["kind"][] = ["flat tool", "female tool", "split female tool", "male mandrel", "bladder", "press tool"];
const work: Schemas["NewToolEvent"]["kind"][] = ["cleaned", "release coat", "cured", "stripped", "checked", "repaired"];

export function ToolsPage() {
  useTitle("Tools");
  const tools = api.useQuery("get", "/api/tools");
  const { may } = useSession();
  const [at, setAt] = useState<number | "new" | null>(null);
  const all = tools.data ?? [];
  const one = all.find((t) => t.id === at) ?? (at === null ? all[0] : undefined);
  if (!tools.data) return <Loading error={tools.error} />;
  return (
    <>
      <PartTabs />
      <Seam
        left="minmax(0, 1.4fr)"
        names={["Tools", "One tool"]}
        planned={
          <Stack $gap={12}>
            <Big>Tools</Big>
            {all.length === 0 && <Empty>No tool yet. Enter the first one.</Empty>}
            <Table>
              <thead>
                <tr>
                  <th>Tool</th>
                  <th>Kind</th>
                  <th className="n">{unitName("size")}</th>
                  <th>Release</th>
                  <th>Parts</th>
                </tr>
              </thead>
              <tbody>
                {all.map((t) => (
                  <tr key={t.id} className={t === one ? "on" : undefined}>
                    <td>
                      <Button $quiet $small onPress={() => setAt(t.id)} aria-pressed={t === one}>
                        {t.name}
                      </Button>
                    </td>
                    <td style={{ whiteSpace: "nowrap" }}>{t.kind}</td>
                    <td className="n">
                      {[t.sheet.length, t.sheet.width, t.sheet.height]
                        .filter(Boolean)
                        .map((x) => quantity("size", x!, 0))
                        .join(" × ")}
                    </td>
                    <td>
                      {t.due ? (
                        <Mark tone="attend">{t.coats === 0 ? "no coat" : `${t.cures} cures: coat`}</Mark>
                      ) : (
                        <Mark tone="met">{t.cures === 0 ? "fresh" : `${t.cures} cures`}</Mark>
                      )}
                    </td>
                    <td>{t.parts.join(", ")}</td>
                  </tr>
                ))}
              </tbody>
            </Table>
            {may("manage tools") && (
              <Row>
                <Button $quiet onPress={() => setAt("new")}>
                  Enter a tool
                </Button>
              </Row>
            )}
          </Stack>
        }
        built={
          at === "new" ? (
            <ToolForm key="new" done={(id) => setAt(id)} />
          ) : (
            one && <OneTool key={one.id} tool={one} keeps={may("manage tools")} logs={may("log work on a tool")} />
          )
        }
      />
    </>
  );
}

function OneTool({ tool, keeps, logs }: { tool: Tool; keeps: boolean; logs: boolean }) {
  const [edit, setEdit] = useState(false);
  const log = useChange("/api/tools/{id}/events");
  const [note, setNote] = useState("");
  if (edit) return <ToolForm tool={tool} done={() => setEdit(false)} />;
  const s = tool.sheet;
  return (
    <Stack $gap={12}>
      <Heading>{tool.kind}</Heading>
      <Big>{tool.name}</Big>
      <p>
        {[
          s.material,
          s.expansion ? `expands by ${(s.expansion * 1e6).toFixed(1)} µm/(m K)` : "",
          s.thermalMass ? `takes ${(s.thermalMass / 1e3).toFixed(0)} kJ/K` : "",
          s.coatsLast ? `coats last for ${s.coatsLast} cures` : "",
        ]
          .filter(Boolean)
          .join(" · ")}
      </p>
      {(s.rosettes ?? []).map((r) => (
        <p key={r.name}>
          Rosette {r.name} at {r.angleDeg}°
        </p>
      ))}
      {(s.datums ?? []).map((d) => (
        <p key={d.name}>
          Datum {d.name} at {told.size(d.x)}, {told.size(d.y)}
        </p>
      ))}
      {s.note && <p>{s.note}</p>}
      {keeps && (
        <Row>
          <Button $quiet $small onPress={() => setEdit(true)}>
            Edit
          </Button>
        </Row>
      )}
      {logs && (
        <Stack $gap={8}>
          <Heading>Done now</Heading>
          <TextField label="Note" value={note} onChange={setNote} />
          <Row $gap={8}>
            {work.map((k) => (
              <Button
                key={k}
                $quiet
                isDisabled={log.isPending}
                onPress={() => (log.mutate({ id: tool.id, body: { kind: k, ...(note ? { note } : {}) } }), setNote(""))}
              >
                {k}
              </Button>
            ))}
          </Row>
          <Refusal error={log.error} />
        </Stack>
      )}
      <Heading>Tool log</Heading>
      <Table>
        <tbody>
          {tool.events.map((e, k) => (
            <tr key={k}>
              <td>{moment(e.at)}</td>
              <td>
                <b>{e.kind}</b>
              </td>
              <td>{e.person}</td>
              <td>{e.note}</td>
            </tr>
          ))}
        </tbody>
      </Table>
      {tool.events.length === 0 && <p>Nothing recorded yet.</p>}
    </Stack>
  );
}

/** Lines of a name and so many figures, with semicolons between; fine says whether a line is one. */
const parse = (text: string, n: number) =>
  text
    .split("\n")
    .filter((l) => l.trim() !== "")
    .map((l) => {
      const [name, ...rest] = l.split(";").map((x) => x.trim());
      const v = rest.map((x) => readNumber(x)).map((x) => ("value" in x ? x.value : NaN));
      return { name: name ?? "", v, fine: !!name && v.length === n && v.every(Number.isFinite) };
    });

const lines = (all: { name: string }[] | undefined, show: (x: never) => string) =>
  (all ?? []).map((x) => show(x as never)).join("\n");

function ToolForm({ tool, done }: { tool?: Tool; done: (id: number) => void }) {
  const save = useChange("/api/tools/{id}", (t) => done(t.id));
  const [form, setForm] = useState<In>(
    tool
      ? { name: tool.name, kind: tool.kind, sheet: tool.sheet, version: tool.version }
      : { name: "", kind: "flat tool", sheet: {} },
  );
  const [rosettes, setRosettes] = useState(
    lines(form.sheet.rosettes, (r: Schemas["Rosette"]) => `${r.name}; ${r.angleDeg}`),
  );
  const [datums, setDatums] = useState(
    lines(form.sheet.datums, (d: Schemas["Datum"]) => `${d.name}; ${inSize(d.x)}; ${inSize(d.y)}`),
  );
  const [wrong, setWrong] = useState("");
  const sheet = (part: Partial<In["sheet"]>) => setForm({ ...form, sheet: { ...form.sheet, ...part } });
  const figure = (label: string, name: keyof In["sheet"], scale: number) => (
    <Figure
      label={label}
      scale={scale}
      value={form.sheet[name] as number | undefined}
      set={(v) => sheet({ [name]: v })}
    />
  );
  const submit = (e: FormEvent) => {
    e.preventDefault();
    const r = parse(rosettes, 1);
    const d = parse(datums, 2);
    const bad = [...r, ...d].find((x) => !x.fine);
    if (bad) {
      setWrong(`“${bad.name}”: a rosette is written name; degrees, a datum name; x; y in ${unitName("size")}`);
      return;
    }
    setWrong("");
    save.mutate({
      id: tool?.id ?? 0,
      body: {
        ...form,
        sheet: {
          ...form.sheet,
          rosettes: r.map((x) => ({ name: x.name, angleDeg: x.v[0]! })),
          datums: d.map((x) => ({ name: x.name, x: fromSize(x.v[0]!), y: fromSize(x.v[1]!) })),
        },
      },
    });
  };
  const area = (label: string, value: string, set: (v: string) => void) => (
    <label style={{ flex: "1 1 200px" }}>
      {label}
      <LongText value={value} set={set} />
    </label>
  );
  return (
    <form onSubmit={submit}>
      <Stack $gap={12}>
        <Big>{tool ? tool.name : "A new tool"}</Big>
        <ToolName form={form} setForm={setForm} sheet={sheet} />
        <ToolSizes figure={figure} />
        <Row $gap={12} $top>
          {area("Rosettes, one a line: name; degrees", rosettes, setRosettes)}
          {area(`Datums, one a line: name; x; y in ${unitName("size")}`, datums, setDatums)}
        </Row>
        <TextField label="Note" value={form.sheet.note ?? ""} onChange={(note) => sheet({ note })} />
        {wrong && (
          <p role="alert">
            <Mark tone="stop">{wrong}</Mark>
          </p>
        )}
        <Refusal error={save.error} />
        <Row>
          <Button type="submit" why={form.name.trim() === "" ? "Enter its name." : ""} isDisabled={save.isPending}>
            Keep the tool
          </Button>
          <Button $quiet onPress={() => done(tool?.id ?? 0)}>
            Cancel
          </Button>
        </Row>
      </Stack>
    </form>
  );
}

/** A text of several lines. */
function LongText({ value, set }: { value: string; set: (v: string) => void }) {
  return (
    <textarea
      value={value}
      rows={3}
      onChange={(e) => set(e.target.value)}
      style={{
        font: "inherit",
        width: "100%",
        background: "transparent",
        color: "inherit",
        border: "1.5px solid var(--ink)",
      }}
    />
  );
}

/** What the tool is called and is. */
function ToolName({
  form,
  setForm,
  sheet,
}: {
  form: Schemas["ToolIn"];
  setForm: (value: Schemas["ToolIn"] | ((prevState: Schemas["ToolIn"]) => Schemas["ToolIn"])) => void;
  sheet: (part: Schemas["ToolSheet"]) => void;
}) {
  return (
    <Row $gap={12} $top>
      <TextField label="Name" value={form.name} onChange={(name) => setForm({ ...form, name })} isRequired />
      <SelectField
        label="Kind"
        value={form.kind}
        onChange={(e) => setForm({ ...form, kind: e.target.value as In["kind"] })}
      >
        {kinds.map((k) => (
          <option key={k}>{k}</option>
        ))}
      </SelectField>
      <TextField label="Made of" value={form.sheet.material ?? ""} onChange={(material) => sheet({ material })} />
    </Row>
  );
}

/** How large the tool is. */
function ToolSizes({
  figure,
}: {
  figure: (
    label: string,
    name:
      | "length"
      | "width"
      | "note"
      | "material"
      | "coatsLast"
      | "datums"
      | "expansion"
      | "height"
      | "rosettes"
      | "thermalMass",
    scale: number,
  ) => JSX.Element;
}) {
  return (
    <Row $gap={12} $top>
      {figure("Length, mm", "length", 1e3)}
      {figure("Width, mm", "width", 1e3)}
      {figure("Height, mm", "height", 1e3)}
      {figure("Expands, µm/(m K)", "expansion", 1e6)}
      {figure("Thermal mass, kJ/K", "thermalMass", 1e-3)}
      {figure("Coats last, cures", "coatsLast", 1)}
    </Row>
  );
}
