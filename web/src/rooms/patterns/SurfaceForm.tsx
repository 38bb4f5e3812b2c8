// What the plies of a stage lie on: a surface of the library by its dimensions, or one of triangles
// that is brought in from a file.
import { useState } from "react";
import { FileTrigger } from "react-aria-components";
import { api, base64, useChange } from "../../app/api";
import type { Schemas } from "../../contract/types";
import { told } from "../../ui/format";
import { Button, Mark, Refusal, Row, SelectField, Stack } from "../../ui/parts";
import { said } from "../../ui/units";
import { Figure } from "../master/Detail";

type Surface = Schemas["Surface"];
type Kept = Schemas["SurfaceView"];
type Unit = Kept["unit"];

export function SurfaceForm({ surface, set, off }: { surface: Surface; set: (s: Surface) => void; off: () => void }) {
  const kinds = api.useQuery("get", "/api/surfaces").data ?? [];
  const [open, setOpen] = useState(surface.kind === "mesh" && !surface.meshId);
  const known = kinds.find((k) => k.kind === surface.kind);
  return (
    <details open={open} onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary style={{ fontWeight: 700, minHeight: 32, cursor: "pointer" }}>The surface</summary>
      <Stack $gap={10}>
        <Row $gap={12} $top>
          <SelectField
            label="Surface"
            value={surface.kind}
            onChange={(e) => {
              const kind = kinds.find((k) => k.kind === e.target.value);
              if (e.target.value === "mesh") set({ kind: "mesh", dims: {} });
              else if (kind)
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
            <option value="mesh">a surface from a file (STL, OBJ)</option>
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
        {surface.kind === "mesh" && <FromFile surface={surface} set={set} />}
        <Row>
          <Button $quiet $small onPress={off}>
            Lay it flat instead
          </Button>
        </Row>
      </Stack>
    </details>
  );
}

const units: Record<Unit, string> = { mm: "mm", cm: "cm", m: "m", inch: "inch" };
const sizeOf = (k: Kept) => k.size.map((v) => told.size(v, 0)).join(" × ");
/** The most that is read: larger files are refused before they travel. */
const mostBytes = 45 * 2 ** 20;

/** Chooses a surface that was brought in, or brings one in. */
function FromFile({ surface, set }: { surface: Surface; set: (s: Surface) => void }) {
  const kept = api.useQuery("get", "/api/meshes").data ?? [];
  const [unit, setUnit] = useState<Unit | "">("");
  const [file, setFile] = useState<{ name: string; content: string }>();
  const [wrong, setWrong] = useState<string>();
  const bring = useChange("/api/meshes", (k) => {
    if (k.question) return;
    setFile(undefined);
    set({ ...surface, kind: "mesh", meshId: k.id });
  });
  const send = (f: { name: string; content: string }, as: Unit, sure: boolean) => {
    setFile(f);
    setUnit(as);
    setWrong(undefined);
    bring.mutate({ body: { ...f, unit: as, ...(sure ? { sure } : {}) } });
  };
  const read = async (f: File) => {
    bring.reset();
    setFile(undefined);
    if (unit === "") return setWrong("Choose its unit first: neither STL nor OBJ states it.");
    if (f.size > mostBytes)
      return setWrong(
        `The file has ${Math.round(f.size / 2 ** 20)} MB, at most 45 are read: export the surface coarser.`,
      );
    try {
      send({ name: f.name, content: await base64(f) }, unit, false);
    } catch {
      setWrong("The file could not be read: choose it again.");
    }
  };
  const asked = bring.data?.question;
  const chosen = kept.find((k) => k.id === surface.meshId);
  return (
    <Stack $gap={8}>
      <Row $gap={12} $top>
        <SurfaceOf surface={surface} set={set} kept={kept} />
        <SelectField label="Unit of the file" value={unit} onChange={(e) => setUnit(e.target.value as Unit)}>
          <option value="">choose …</option>
          {(Object.keys(units) as Unit[]).map((u) => (
            <option key={u}>{u}</option>
          ))}
        </SelectField>
        <div style={{ alignSelf: "flex-end" }}>
          <FileTrigger acceptedFileTypes={[".stl", ".obj"]} onSelect={(f) => f?.[0] && void read(f[0])}>
            <Button $quiet why={bring.isPending ? "Reading …" : ""}>
              {bring.isPending ? "Reading …" : "Import the surface"}
            </Button>
          </FileTrigger>
        </div>
      </Row>
      {wrong && (
        <p role="alert" style={{ margin: 0 }}>
          <Mark tone="stop">{wrong}</Mark>
        </p>
      )}
      <Refusal error={bring.error} />
      {asked && file && unit !== "" && (
        <Stack $gap={8} role="alert">
          <Mark tone="attend">{said(asked)}</Mark>
          <Row $gap={8}>
            {unit === "mm" && <Button onPress={() => send(file, "inch", true)}>Unit: inch</Button>}
            <Button $quiet onPress={() => send(file, unit, true)}>
              It is in {unit}, as I said
            </Button>
          </Row>
        </Stack>
      )}
      {chosen && (
        <p style={{ margin: 0 }}>
          {chosen.triangles} triangles, read in {chosen.unit}.
          {chosen.mended.length > 0 && ` Mended: ${chosen.mended.join("; ")}.`}
        </p>
      )}
    </Stack>
  );
}

/** Which surface from a file it is. */
function SurfaceOf({
  surface,
  set,
  kept,
}: {
  surface: Schemas["Surface"];
  set: (s: Schemas["Surface"]) => void;
  kept: Schemas["SurfaceView"][];
}) {
  return (
    <SelectField
      label="Surface from a file"
      value={surface.meshId ?? ""}
      onChange={(e) => set({ ...surface, meshId: Number(e.target.value) || undefined })}
    >
      <option value="">choose …</option>
      {kept.map((k) => (
        <option key={k.id} value={k.id}>
          {k.name}, {sizeOf(k)}
        </option>
      ))}
    </SelectField>
  );
}
