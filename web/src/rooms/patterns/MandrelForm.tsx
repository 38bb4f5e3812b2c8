// What a stage is rolled on, what is wanted of it, how it is taped and how its mandrel is
// pulled.
import type { Schemas } from "../../contract/types";
import { Button, Row, SelectField, Stack } from "../../ui/parts";
import { Figure } from "../master/Detail";

export type Mandrel = Schemas["Rolled"];

export const sections: Mandrel["section"][] = [
  "round",
  "ellipse",
  "stadium",
  "square",
  "rectangle",
  "hexagon",
  "octagon",
];
const oblong = (s: string) => s === "ellipse" || s === "stadium" || s === "rectangle";
const cornered = (s: string) => s === "square" || s === "rectangle" || s === "hexagon" || s === "octagon";
const across = (s: string) =>
  s === "round" ? "Diameter" : s === "hexagon" || s === "octagon" ? "Across flats" : "Width";

const usualTape = { width: 0.02, pitch: 0.01, layers: 2 };
const steel = { expands: 12e-6, modulus: 200e9, poisson: 0.3, cools: 95, friction: 0.2 };

export function MandrelForm({ m, set }: { m: Mandrel; set: (part: Partial<Mandrel>) => void }) {
  const size = (field: keyof Mandrel, label: string, need = false, key = field as string) => (
    <Figure
      key={m.section + key}
      label={`${label}, mm`}
      scale={1e3}
      need={need}
      min={0}
      value={m[field] as number | undefined}
      set={(v) => set({ [field]: v ?? (need ? 0 : undefined) })}
    />
  );
  return (
    <Stack $gap={10}>
      <Row $gap={12} $top role="group" aria-label="The mandrel">
        <SelectField
          label="Section"
          value={m.section}
          onChange={(e) => {
            const section = e.target.value as Mandrel["section"];
            set({
              section,
              height: oblong(section) ? (m.height ?? m.width) : undefined,
              lastHeight: oblong(section) ? m.lastHeight : undefined,
              outHeight: oblong(section) ? m.outHeight : undefined,
              radius: cornered(section) ? m.radius : undefined,
              lastRadius: cornered(section) ? m.lastRadius : undefined,
            });
          }}
        >
          {sections.map((s) => (
            <option key={s}>{s}</option>
          ))}
        </SelectField>
        {size("width", across(m.section), true)}
        {oblong(m.section) && size("height", "Height", true)}
        {cornered(m.section) && size("radius", "Corner radius")}
        {size("length", "Length of the part", true)}
      </Row>
      <Row $gap={12} $top role="group" aria-label="Last end, where it tapers">
        {size("lastWidth", `${across(m.section)} at the last end`)}
        {oblong(m.section) && size("lastHeight", "Height there")}
        {cornered(m.section) && size("lastRadius", "Radius there")}
        {size("trim", "Trim per end")}
        {size("tapeEnds", "Allowance for tape")}
      </Row>
      <Row $gap={12} $top role="group" aria-label="Seams, and the size that is wanted">
        <Figure
          label="Seam stagger, °"
          scale={1}
          min={0}
          max={360}
          value={m.stepDeg}
          set={(v) => set({ stepDeg: v })}
        />
        {size("stepLength", "or along it")}
        {size("outside", "Outside wanted")}
        {oblong(m.section) && size("outHeight", "Height wanted")}
        {size("tolerance", "Tolerance ±")}
        <label style={{ minHeight: 32, display: "inline-flex", alignItems: "center", gap: 8, alignSelf: "flex-end" }}>
          <input
            type="checkbox"
            checked={m.asLaid ?? false}
            onChange={(e) => set({ asLaid: e.target.checked || undefined })}
          />
          layers lie as thick as laid until the cure (no debulk by ply)
        </label>
      </Row>
      <TapeFields m={m} set={set} />
      <PullFields m={m} set={set} />
    </Stack>
  );
}

/** How the mandrel comes out. */
function PullFields({ m, set }: { m: Schemas["Rolled"]; set: (part: Partial<Schemas["Rolled"]>) => void }) {
  return (
    <Row $gap={12} $top role="group" aria-label="Mandrel pull">
      {m.pull ? (
        <>
          <Figure
            label="Mandrel expansion, 10⁻⁶/K"
            scale={1e6}
            need
            value={m.pull.expands}
            set={(v) => set({ pull: { ...m.pull!, expands: v ?? 0 } })}
          />
          <Figure
            label="Mandrel modulus, GPa"
            scale={1e-9}
            need
            min={0}
            value={m.pull.modulus}
            set={(v) => set({ pull: { ...m.pull!, modulus: v ?? 0 } })}
          />
          <Figure
            label="Poisson’s ratio"
            scale={1}
            need
            value={m.pull.poisson}
            set={(v) => set({ pull: { ...m.pull!, poisson: v ?? 0 } })}
          />
          <Figure
            label="Bore, mm"
            scale={1e3}
            min={0}
            value={m.pull.bore}
            set={(v) => set({ pull: { ...m.pull!, bore: v } })}
          />
          <Figure
            label="Cool-down before pull, K"
            scale={1}
            need
            min={0}
            value={m.pull.cools}
            set={(v) => set({ pull: { ...m.pull!, cools: v ?? 0 } })}
          />
          <Figure
            label="Friction"
            scale={1}
            need
            min={0}
            max={2}
            value={m.pull.friction}
            set={(v) => set({ pull: { ...m.pull!, friction: v ?? 0 } })}
          />
          <Figure
            label="Puller’s limit, kN"
            scale={1e-3}
            min={0}
            value={m.pull.limit}
            set={(v) => set({ pull: { ...m.pull!, limit: v } })}
          />
          <Button $quiet $small style={{ alignSelf: "flex-end" }} onPress={() => set({ pull: undefined })}>
            No pull
          </Button>
        </>
      ) : (
        <Button $quiet $small style={{ alignSelf: "flex-end" }} onPress={() => set({ pull: { ...steel } })}>
          Estimate the pull
        </Button>
      )}
    </Row>
  );
}

/** Tape for the cure. */
function TapeFields({ m, set }: { m: Schemas["Rolled"]; set: (part: Partial<Schemas["Rolled"]>) => void }) {
  return (
    <Row $gap={12} $top role="group" aria-label="Tape for the cure">
      {m.tape ? (
        <>
          <Figure
            label="Tape width, mm"
            scale={1e3}
            need
            min={0}
            value={m.tape.width}
            set={(v) => set({ tape: { ...m.tape!, width: v ?? 0 } })}
          />
          <Figure
            label="Pitch, mm"
            scale={1e3}
            need
            min={0}
            value={m.tape.pitch}
            set={(v) => set({ tape: { ...m.tape!, pitch: v ?? 0 } })}
          />
          <Figure
            label="Layers, the first releases"
            scale={1}
            need
            min={1}
            max={50}
            value={m.tape.layers}
            set={(v) => set({ tape: { ...m.tape!, layers: Math.round(v ?? 1) } })}
          />
          <Figure
            label="Tension, N"
            scale={1}
            min={0}
            value={m.tape.tension}
            set={(v) => set({ tape: { ...m.tape!, tension: v } })}
          />
          <Button $quiet $small style={{ alignSelf: "flex-end" }} onPress={() => set({ tape: undefined })}>
            No tape
          </Button>
        </>
      ) : (
        <Button $quiet $small style={{ alignSelf: "flex-end" }} onPress={() => set({ tape: { ...usualTape } })}>
          Plan the tape
        </Button>
      )}
    </Row>
  );
}
