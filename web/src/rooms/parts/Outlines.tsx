// The outlines of a part: from the library by their dimensions, by typed
// points with arcs, or from a drawing.
import { useState } from "react";
import { FileTrigger } from "react-aria-components";
import { api, base64, client, useChange } from "../../app/api";
import { explain, type Schemas } from "../../contract/types";
import { bounds, path } from "../../ui/Hatch";
import { Button, Heading, Mark, Refusal, Row, SelectField, Stack, Table, TextField } from "../../ui/parts";
import { Figure } from "../master/Detail";
import { items, type Master } from "../master/edits";
import { told } from "../../ui/format";
import { PointsField } from "../master/PointsField";

type Outline = Schemas["Outline"];
type Kind = Outline["kind"];

/** How a dimension is typed: lengths in mm. */
const typed = {
  m: { scale: 1e3, unit: ", mm" },
  "°": { scale: 1, unit: ", °" },
  number: { scale: 1, unit: "" },
};

export function Outlines({
  doc,
  faults,
  drawn,
  change,
  code,
}: {
  doc: Master;
  faults: Schemas["Fault"][];
  /** Outlines as the server drew them, by name, m. */
  drawn: Map<string, number[][]>;
  change?: (m: Master) => void;
  code: string;
}) {
  const [at, setAt] = useState(0);
  const [error, setError] = useState<string[]>([]);
  const [notes, setNotes] = useState<string[]>([]);
  const [unit, setUnit] = useState<"" | "mm" | "inch">("");
  const shapes = api.useQuery("get", "/api/shapes");
  const library = shapes.data ?? [];
  const dims = (kind: Kind) => library.find((k) => k.kind === kind)?.dims;
  const one = doc.outlines[Math.min(at, doc.outlines.length - 1)];
  const used = (name: string) => items(doc).filter((i) => i.outline === name).length;
  const set = (part: Partial<Outline>) =>
    change?.({ ...doc, outlines: doc.outlines.map((o) => (o === one ? { ...o, ...part } : o)) });
  const rename = (name: string) =>
    one &&
    change?.({
      ...doc,
      trim: doc.trim === one.name ? name : doc.trim,
      outlines: doc.outlines.map((o) => (o === one ? { ...o, name } : o)),
      stages: doc.stages.map((s) => ({
        ...s,
        items: s.items.map((i) => (i.outline === one.name ? { ...i, outline: name } : i)),
      })),
    });
  const add = (kind: Kind) => {
    let name = kind === "points" ? "outline" : kind;
    for (let n = 2; doc.outlines.some((o) => o.name === name); n++) name = `${kind} ${n}`;
    const begins = dims(kind);
    const points =
      kind === "points"
        ? [
            { x: 0, y: 0 },
            { x: 0.3, y: 0 },
            { x: 0.3, y: 0.2 },
            { x: 0, y: 0.2 },
          ]
        : undefined;
    change?.({
      ...doc,
      outlines: [
        ...doc.outlines,
        { name, kind, points, dims: begins && Object.fromEntries(begins.map((d) => [d.name, d.usual])) },
      ],
    });
    setAt(doc.outlines.length);
  };
  const read = async (file: File) => {
    const { data, error: fault } = await client.POST("/api/parts/{code}/outlines", {
      params: { path: { code } },
      // As bytes: old drawings are not of UTF-8, and some are binary.
      body: file.name.toLowerCase().endsWith(".dxf")
        ? { name: file.name, content: await base64(file), binary: true, ...(unit ? { unit } : {}) }
        : { name: file.name, content: await file.text(), ...(unit ? { unit } : {}) },
    });
    if (!data) {
      const { message, details } = explain(fault);
      setError([message, ...details]);
      setNotes([]);
      return;
    }
    setError([]);
    setNotes(data.notes);
    const rest = doc.outlines.filter((o) => !data.outlines.some((n) => n.name === o.name));
    change?.({ ...doc, outlines: [...rest, ...data.outlines] });
    setAt(rest.length);
  };
  return (
    <Stack $gap={12}>
      <Heading>Outlines, shared by all items that use them</Heading>
      <Row $gap={24} $top>
        <OutlineTable doc={doc} one={one} setAt={setAt} faults={faults} used={used} />
        {one && <Drawn ring={drawn.get(one.name)} name={one.name} marks={one.marks ?? []} />}
      </Row>
      {change && (
        <NewOutline add={add} library={library} read={read} unit={unit} setUnit={setUnit} doc={doc} change={change} />
      )}
      {error.length > 0 && (
        <ul role="alert">
          {error.map((e) => (
            <li key={e}>
              <Mark tone="stop">{e}</Mark>
            </li>
          ))}
        </ul>
      )}
      {notes.map((n) => (
        <p key={n} role="status" style={{ margin: 0 }}>
          <Mark tone="attend">{n}</Mark>
        </p>
      ))}
      {one && change && (
        <OneOutline
          one={one}
          rename={rename}
          dims={dims}
          set={set}
          doc={doc}
          change={change}
          setAt={setAt}
          used={used}
        />
      )}
    </Stack>
  );
}

/** A new outline outside or inside of one, its corners rounded. */
function OutlineBeside({ outline, taken, add }: { outline: Outline; taken: string[]; add: (o: Outline) => void }) {
  const [offset, setOffset] = useState<number>();
  const [radius, setRadius] = useState<number>();
  const make = useChange("/api/outline", add);
  let name = `${outline.name} ${offset ? (offset > 0 ? "larger" : "smaller") : "rounded"}`.slice(0, 56);
  for (let n = 2; taken.includes(name); n++) name = `${name.replace(/ \d+$/, "")} ${n}`;
  return (
    <Stack $gap={8} role="group" aria-label="New outline from this one">
      <Row $gap={12} $top>
        <Figure label="Outwards (inwards below 0), mm" scale={1e3} value={offset} set={setOffset} />
        <Figure label="Corners rounded by, mm" scale={1e3} min={0} value={radius} set={setRadius} />
        <div style={{ alignSelf: "flex-end" }}>
          <Button
            $quiet
            why={offset || radius ? "" : "enter an offset or a radius"}
            onPress={() => make.mutate({ body: { outline, name, offset: offset ?? 0, radius: radius ?? 0 } })}
          >
            Add the outline
          </Button>
        </div>
      </Row>
      <Refusal error={make.error} />
    </Stack>
  );
}

function Drawn({ ring, name, marks }: { ring?: number[][]; name: string; marks: Schemas["DrawnMark"][] }) {
  if (!ring || ring.length === 0) return <p>Not drawn yet.</p>;
  const b = bounds([ring]);
  const scale = Math.min(260 / (b.x1 - b.x0), 180 / (b.y1 - b.y0));
  return (
    <svg viewBox="0 0 300 220" width={300} role="img" aria-label={`Outline ${name}`}>
      <path
        d={path(
          ring,
          (v) => 20 + (v - b.x0) * scale,
          (v) => 200 - (v - b.y0) * scale,
        )}
        fill="var(--wash)"
        stroke="var(--ink)"
        strokeWidth={2}
      />
      {marks.map((m, k) => {
        const line = m.points
          .map(
            (p, i) =>
              `${i ? "L" : "M"}${(20 + (p.x - b.x0) * scale).toFixed(1)},${(200 - (p.y - b.y0) * scale).toFixed(1)}`,
          )
          .join("");
        const [first] = m.points;
        return m.says || m.points.length < 2 ? (
          <text
            key={k}
            x={20 + ((first?.x ?? 0) - b.x0) * scale}
            y={200 - ((first?.y ?? 0) - b.y0) * scale}
            fontSize={12}
            fill="var(--blue)"
          >
            {m.says ?? "+"}
          </text>
        ) : (
          <path
            key={k}
            d={line + (m.closed ? "Z" : "")}
            fill={m.closed ? "var(--paper)" : "none"}
            stroke="var(--blue)"
            strokeWidth={1.5}
            strokeDasharray="5 3"
          />
        );
      })}
      <text x={20} y={216} fontSize={13} fill="var(--ink)">
        {told.sides(b.x1 - b.x0, b.y1 - b.y0)}
      </text>
    </svg>
  );
}

/** The outline that is chosen, with its sizes. */
function OneOutline({
  one,
  rename,
  dims,
  set,
  doc,
  change,
  setAt,
  used,
}: {
  one: Schemas["Outline"];
  rename: (name: string) => undefined | void;
  dims: (
    kind: "circle" | "ellipse" | "rectangle" | "points" | "strip" | "ring sector" | "patch" | "taper" | "regular",
  ) => undefined | Schemas["ShapeDim"][];
  set: (part: Partial<Schemas["Outline"]>) => undefined | void;
  doc: Schemas["Document"];
  change: (m: Schemas["Document"]) => void;
  setAt: (value: number | ((prevState: number) => number)) => void;
  used: (name: string) => number;
}) {
  return (
    <Stack $gap={8} style={{ borderTop: "2px solid var(--ink)", paddingTop: 8 }}>
      <Row $gap={12} $top>
        <div style={{ width: 200 }}>
          <TextField label="Name" value={one.name} onChange={rename} />
        </div>
        {dims(one.kind)?.map((d) => (
          <Figure
            need
            key={one.name + d.name}
            label={d.called[0]!.toUpperCase() + d.called.slice(1) + typed[d.unit].unit}
            scale={typed[d.unit].scale}
            value={one.dims?.[d.name]}
            set={(v) => set({ dims: { ...one.dims, [d.name]: v ?? 0 } })}
          />
        ))}
        <div style={{ flex: "1 1 240px" }}>
          <TextField
            label="Placeholder for (empty: it is the real one)"
            value={one.placeholder ?? ""}
            onChange={(v) => set({ placeholder: v || undefined })}
          />
        </div>
      </Row>
      {one.kind === "points" && (
        <PointsField key={one.name} points={one.points ?? []} set={(points) => set({ points })} />
      )}
      <OutlineBeside
        key={`beside ${one.name}`}
        outline={one}
        taken={doc.outlines.map((o) => o.name)}
        add={(o) => {
          change({ ...doc, outlines: [...doc.outlines, o] });
          setAt(doc.outlines.length);
        }}
      />
      <Row>
        <Button
          $quiet
          $small
          why={used(one.name) > 0 ? `${used(one.name)} items use it` : ""}
          onPress={() => change({ ...doc, outlines: doc.outlines.filter((o) => o !== one) })}
        >
          Remove
        </Button>
      </Row>
    </Stack>
  );
}

/** The outlines, and what each is used for. */
function OutlineTable({
  doc,
  one,
  setAt,
  faults,
  used,
}: {
  doc: Schemas["Document"];
  one: undefined | Schemas["Outline"];
  setAt: (value: number | ((prevState: number) => number)) => void;
  faults: Schemas["Fault"][];
  used: (name: string) => number;
}) {
  return (
    <Table style={{ width: "auto", flex: "1 1 300px" }}>
      <thead>
        <tr>
          <th>Outline</th>
          <th>Kind</th>
          <th className="n">Items</th>
        </tr>
      </thead>
      <tbody>
        {doc.outlines.map((o, k) => (
          <tr key={k} className={o === one ? "on" : undefined}>
            <td>
              <Button $quiet $small onPress={() => setAt(k)} aria-pressed={o === one}>
                {o.name || "(no name)"}
              </Button>{" "}
              {o.placeholder && <small>stands for: {o.placeholder}</small>}
              {faults
                .filter((f) => f.key === o.name && f.field === "outline")
                .map((f) => (
                  <div key={f.message} role="alert">
                    <Mark tone="stop">{f.message}</Mark>
                  </div>
                ))}
            </td>
            <td>{o.kind}</td>
            <td className="n">{used(o.name)}</td>
          </tr>
        ))}
      </tbody>
    </Table>
  );
}

/** Adds an outline, from the library or a file. */
function NewOutline({
  add,
  library,
  read,
  unit,
  setUnit,
  doc,
  change,
}: {
  add: (
    kind: "circle" | "ellipse" | "rectangle" | "points" | "strip" | "ring sector" | "patch" | "taper" | "regular",
  ) => void;
  library: Schemas["ShapeKind"][];
  read: (file: File) => Promise<void>;
  unit: "" | "mm" | "inch";
  setUnit: (value: "" | "mm" | "inch" | ((prevState: "" | "mm" | "inch") => "" | "mm" | "inch")) => void;
  doc: Schemas["Document"];
  change: (m: Schemas["Document"]) => void;
}) {
  return (
    <Row $gap={10}>
      <SelectField label="New outline" value="" onChange={(e) => e.target.value && add(e.target.value as Kind)}>
        <option value="">from the library …</option>
        {library.map((k) => (
          <option key={k.kind} value={k.kind}>
            {k.called}
          </option>
        ))}
        <option value="points">by its points, with arcs</option>
      </SelectField>
      <FileTrigger acceptedFileTypes={[".dxf", ".svg"]} onSelect={(f) => f?.[0] && void read(f[0])}>
        <Button $quiet>From a drawing (DXF, SVG)</Button>
      </FileTrigger>
      <SelectField
        label="Unit of a drawing that says none"
        value={unit}
        onChange={(e) => setUnit(e.target.value as typeof unit)}
      >
        <option value="">it says its own</option>
        <option>mm</option>
        <option>inch</option>
      </SelectField>
      <SelectField
        label="Trimmed to"
        value={doc.trim ?? ""}
        onChange={(e) => change({ ...doc, trim: e.target.value || undefined })}
      >
        <option value="">as laid</option>
        {doc.outlines.map((o) => (
          <option key={o.name}>{o.name}</option>
        ))}
      </SelectField>
    </Row>
  );
}
