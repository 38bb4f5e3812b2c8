// Resin systems: the supplier's cycle, kinetics and viscosity.
import { useState, type FormEvent } from "react";
import { api, useChange } from "../../app/api";
import type { Schemas } from "../../contract/types";
import { moment, told } from "../../ui/format";
import { Big, Button, Heading, NumberField, Refusal, Row, Stack, TextField } from "../../ui/parts";

type Resin = Schemas["ResinView"];
type In = Schemas["ResinIn"];

const start: In = {
  name: "",
  alpha0: 0.01,
  kinetics: { terms: [{ a: 1e8, e: 85e3, m: 0, n: 1.2 }] },
  recipe: {
    name: "",
    start: 294.15,
    tolerance: 5,
    segments: [
      { target: 393.15, rate: 0.025, hold: 7200, waitPart: 390.15 },
      { target: 328.15, rate: 0.033, hold: 0 },
    ],
  },
};

export function Resins({
  resins,
  edit,
}: {
  resins: Resin[];
  /** Missing: whoever looks may not. */
  edit: ((r: Resin | "new") => void) | undefined;
}) {
  return (
    <Stack $gap={8}>
      <Row $between>
        <Heading>Resin systems</Heading>
        {edit && (
          <Button $quiet onPress={() => edit("new")}>
            A new resin
          </Button>
        )}
      </Row>
      {resins.map((r) => (
        <div key={r.id}>
          <b>{r.name}</b>{" "}
          {edit && (
            <Button $quiet onPress={() => edit(r)} aria-label={`Change ${r.name}`}>
              Change
            </Button>
          )}
          <br />
          <small>
            {r.recipe.segments
              .filter((s) => s.hold > 0)
              .map((s) => `${told.degrees(s.target)} for ${(s.hold / 60).toFixed(0)} min`)
              .join(", then ")}
            ; {r.kinetics.terms.length} {r.kinetics.terms.length === 1 ? "reaction" : "reactions"}
            {r.viscosity
              ? r.viscosity.gel
                ? `, gels at ${r.viscosity.gel}`
                : ", viscosity known"
              : ", viscosity not known"}
          </small>
          <Versions r={r} />
        </div>
      ))}
    </Stack>
  );
}

/** What was said of a resin before: each version with where it came from. */
function Versions({ r }: { r: Resin }) {
  const [open, setOpen] = useState(false);
  const all = api.useQuery("get", "/api/resins/{id}/versions", { params: { path: { id: r.id } } }, { enabled: open });
  return (
    <details onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary style={{ minHeight: 32, display: "list-item", alignContent: "center" }}>
        <small>Version {r.version}</small>
      </summary>
      <Refusal error={all.error} />
      <ol reversed style={{ margin: 0, paddingLeft: 24 }}>
        {all.data?.map((v) => (
          <li key={v.version} value={v.version}>
            {moment(v.at)}
            {v.by && `, ${v.by}`}
            {v.why && `: ${v.why}`}
            {v.differs.length > 0 && (
              <>
                <br />
                <small>changed: {v.differs.map((d) => called[d] ?? d).join(", ")}</small>
              </>
            )}
          </li>
        ))}
      </ol>
    </details>
  );
}

/** What the fields of a resin are called on the page. */
const called: Record<string, string> = {
  kinetics: "reactions",
  alpha0: "degree of cure as received",
  recipe: "the supplier’s cycle",
  heat: "reaction heat",
  gel: "gel point",
  glass: "glass transition",
  coldest: "range",
  hottest: "range",
  source: "source of its figures",
};

/** A resin as it is entered, or as a version of it. */
export function EditResin({ r, done }: { r: Resin | null; done: () => void }) {
  const save = useChange("/api/resins/{id}", done);
  const [form, setForm] = useState<In>(
    r
      ? (Object.fromEntries(
          Object.entries(r).filter(([k]) => k !== "id" && k !== "version" && !k.startsWith("$")),
        ) as In)
      : start,
  );
  const submit = (e: FormEvent) => {
    e.preventDefault();
    save.mutate({
      id: r?.id ?? 0,
      body: { ...form, version: r?.version ?? 0, recipe: { ...form.recipe, name: form.recipe.name || form.name } },
    });
  };
  const terms = form.kinetics.terms;
  const term = (i: number, change: Partial<Schemas["Term"]>) =>
    setForm({
      ...form,
      kinetics: { ...form.kinetics, terms: terms.map((t, k) => (k === i ? { ...t, ...change } : t)) },
    });
  const segments = form.recipe.segments;
  const segment = (i: number, change: Partial<Schemas["Segment"]>) =>
    setForm({
      ...form,
      recipe: { ...form.recipe, segments: segments.map((s, k) => (k === i ? { ...s, ...change } : s)) },
    });
  const visc = form.viscosity;
  const v = (change: Partial<Schemas["Viscosity"]>) =>
    setForm({ ...form, viscosity: { mu: 1e-9, u: 6e4, ...visc, ...change } });
  const small = { display: "grid", gridTemplateColumns: "repeat(auto-fill, minmax(104px, 1fr))", gap: 8 } as const;
  return (
    <form onSubmit={submit}>
      <Stack $gap={8}>
        <Big>{r ? `${r.name}, version ${r.version}` : "A new resin"}</Big>
        <TextField label="Name" value={form.name} onChange={(name) => setForm({ ...form, name })} isRequired />
        <Heading>
          Reactions: A exp(−E/RT) αᵐ (1−α)ⁿ (B−α)ᵖ, each from a degree of cure to another; empty: throughout
        </Heading>
        {terms.map((t, i) => (
          <TermFields key={i} i={i} small={small} t={t} term={term} />
        ))}
        <TermVerbs setForm={setForm} form={form} terms={terms} />
        <Heading>Slowed in the glass: divided by 1 + exp(C (α − α₀ − αT T)); empty: it is not</Heading>
        <DiffusionFields small={small} form={form} setForm={setForm} terms={terms} />
        <Heading>Heat, glass transition, and the range that the figures hold in; what is empty is not known</Heading>
        <HeatAndGlass small={small} form={form} setForm={setForm} />
        <TextField
          label="Source of the figures"
          value={form.source ?? ""}
          onChange={(source) => setForm({ ...form, source })}
        />
        <Heading>Viscosity; gelation 0 for the form with κ</Heading>
        <ViscosityFields small={small} visc={visc} v={v} />
        <Heading>The supplier’s cycle</Heading>
        {segments.map((s, i) => (
          <LegFields key={i} i={i} small={small} s={s} segment={segment} />
        ))}
        <LegVerbs setForm={setForm} form={form} segments={segments} />
        <NumberField
          label="Degree of cure as received"
          value={form.alpha0}
          onChange={(alpha0) => setForm({ ...form, alpha0 })}
        />
        <Refusal error={save.error} />
        <Row>
          <Button type="submit" why={form.name.trim() === "" ? "Enter its name." : ""} isDisabled={save.isPending}>
            Keep the resin
          </Button>
          <Button $quiet onPress={done}>
            Cancel
          </Button>
        </Row>
      </Stack>
    </form>
  );
}

/** The heat of the reaction, and the glass transition. */
function HeatAndGlass({
  small,
  form,
  setForm,
}: {
  small: { display: "grid"; gridTemplateColumns: "repeat(auto-fill, minmax(104px, 1fr))"; gap: 8 };
  form: Schemas["ResinIn"];
  setForm: (value: Schemas["ResinIn"] | ((prevState: Schemas["ResinIn"]) => Schemas["ResinIn"])) => void;
}) {
  return (
    <div style={small}>
      <NumberField
        label="Reaction, kJ/kg"
        value={form.heat ? form.heat / 1e3 : NaN}
        onChange={(x) => setForm({ ...form, heat: Number.isNaN(x) ? 0 : x * 1e3 })}
      />
      <NumberField
        label="Gel at"
        value={form.gel || NaN}
        onChange={(x) => setForm({ ...form, gel: Number.isNaN(x) ? 0 : x })}
      />
      {(["raw", "cured", "lambda"] as const).map((key) => (
        <NumberField
          key={key}
          label={{ raw: "Tg raw, °C", cured: "Tg cured, °C", lambda: "λ" }[key]}
          kelvin={key !== "lambda"}
          value={form.glass ? form.glass[key] : NaN}
          onChange={(x) =>
            setForm({
              ...form,
              glass: {
                raw: 263.15,
                cured: 393.15,
                lambda: 0.5,
                ...form.glass,
                [key]: x,
              },
            })
          }
        />
      ))}
      {(["coldest", "hottest"] as const).map((key) => (
        <NumberField
          key={key}
          label={{ coldest: "Holds from, °C", hottest: "Holds to, °C" }[key]}
          kelvin
          value={form[key] || NaN}
          onChange={(x) => setForm({ ...form, [key]: Number.isNaN(x) ? 0 : x })}
        />
      ))}
    </div>
  );
}

/** One more term of the law, or one less. */
function TermVerbs({
  setForm,
  form,
  terms,
}: {
  setForm: (value: Schemas["ResinIn"] | ((prevState: Schemas["ResinIn"]) => Schemas["ResinIn"])) => void;
  form: Schemas["ResinIn"];
  terms: Schemas["Term"][];
}) {
  return (
    <Row $gap={8}>
      <Button
        $quiet
        onPress={() =>
          setForm({ ...form, kinetics: { ...form.kinetics, terms: [...terms, { a: 1e6, e: 7e4, m: 1, n: 1 }] } })
        }
      >
        One more
      </Button>
      {terms.length > 1 && (
        <Button $quiet onPress={() => setForm({ ...form, kinetics: { ...form.kinetics, terms: terms.slice(0, -1) } })}>
          One less
        </Button>
      )}
    </Row>
  );
}

/** One more leg of the supplier’s cycle, or one less. */
function LegVerbs({
  setForm,
  form,
  segments,
}: {
  setForm: (value: Schemas["ResinIn"] | ((prevState: Schemas["ResinIn"]) => Schemas["ResinIn"])) => void;
  form: Schemas["ResinIn"];
  segments: Schemas["Segment"][];
}) {
  return (
    <Row $gap={8}>
      <Button
        $quiet
        onPress={() => setForm({ ...form, recipe: { ...form.recipe, segments: [...segments, segments.at(-1)!] } })}
      >
        One more leg
      </Button>
      {segments.length > 1 && (
        <Button
          $quiet
          onPress={() => setForm({ ...form, recipe: { ...form.recipe, segments: segments.slice(0, -1) } })}
        >
          One less
        </Button>
      )}
    </Row>
  );
}

/** How the reaction slows down in the glass. */
function DiffusionFields({
  small,
  form,
  setForm,
  terms,
}: {
  small: { display: "grid"; gridTemplateColumns: "repeat(auto-fill, minmax(104px, 1fr))"; gap: 8 };
  form: Schemas["ResinIn"];
  setForm: (value: Schemas["ResinIn"] | ((prevState: Schemas["ResinIn"]) => Schemas["ResinIn"])) => void;
  terms: Schemas["Term"][];
}) {
  return (
    <div style={small}>
      {(["c", "alpha0", "alphaT"] as const).map((key) => (
        <NumberField
          key={key}
          label={{ c: "C", alpha0: "α₀", alphaT: "αT, 1/K" }[key]}
          value={form.kinetics.diffusion?.[key] ?? NaN}
          onChange={(x) =>
            setForm({
              ...form,
              kinetics: {
                terms,
                ...(key === "c" && Number.isNaN(x)
                  ? {}
                  : { diffusion: { c: 0, alpha0: 0, alphaT: 0, ...form.kinetics.diffusion, [key]: x } }),
              },
            })
          }
        />
      ))}
    </div>
  );
}

/** The viscosity by temperature and cure. */
function ViscosityFields({
  small,
  visc,
  v,
}: {
  small: { display: "grid"; gridTemplateColumns: "repeat(auto-fill, minmax(104px, 1fr))"; gap: 8 };
  visc: undefined | Schemas["Viscosity"];
  v: (change: Partial<Schemas["Viscosity"]>) => void;
}) {
  return (
    <div style={small}>
      <NumberField
        label="log₁₀ µ∞, Pa s"
        value={visc ? Math.log10(visc.mu) : NaN}
        onChange={(x) => v({ mu: 10 ** x })}
      />
      <NumberField label="U, kJ/mol" value={visc ? visc.u / 1e3 : NaN} onChange={(x) => v({ u: x * 1e3 })} />
      <NumberField label="κ" value={visc?.kappa ?? NaN} onChange={(kappa) => v({ kappa })} />
      <NumberField label="Gelation" value={visc?.gel ?? NaN} onChange={(gel) => v({ gel })} />
      <NumberField label="a" value={visc?.a ?? NaN} onChange={(a) => v({ a })} />
      <NumberField label="b" value={visc?.b ?? NaN} onChange={(b) => v({ b })} />
    </div>
  );
}

/** One term of the law. */
function TermFields({
  i,
  small,
  t,
  term,
}: {
  i: number;
  small: { display: "grid"; gridTemplateColumns: "repeat(auto-fill, minmax(104px, 1fr))"; gap: 8 };
  t: Schemas["Term"];
  term: (i: number, change: Partial<Schemas["Term"]>) => void;
}) {
  return (
    <div style={small}>
      <NumberField label="A, 1/s" value={+t.a.toPrecision(6)} onChange={(a) => term(i, { a })} />
      <NumberField label="E, kJ/mol" value={t.e / 1e3} onChange={(x) => term(i, { e: x * 1e3 })} />
      <NumberField label="m" value={t.m} onChange={(m) => term(i, { m })} />
      <NumberField label="n" value={t.n} onChange={(n) => term(i, { n })} />
      {(["b", "p", "from", "to"] as const).map((key) => (
        <NumberField
          key={key}
          label={{ b: "B", p: "p", from: "From α", to: "To α" }[key]}
          value={t[key] || NaN}
          onChange={(x) => term(i, { [key]: Number.isNaN(x) ? 0 : x })}
        />
      ))}
    </div>
  );
}

/** One leg of the supplier’s cycle. */
function LegFields({
  i,
  small,
  s,
  segment,
}: {
  i: number;
  small: { display: "grid"; gridTemplateColumns: "repeat(auto-fill, minmax(104px, 1fr))"; gap: 8 };
  s: Schemas["Segment"];
  segment: (i: number, change: Partial<Schemas["Segment"]>) => void;
}) {
  return (
    <div style={small}>
      <NumberField kelvin label="To, °C" value={s.target} onChange={(x) => segment(i, { target: x })} />
      <NumberField label="At, K/min" value={s.rate * 60} onChange={(x) => segment(i, { rate: x / 60 })} />
      <NumberField label="Hold, min" value={s.hold / 60} onChange={(x) => segment(i, { hold: x * 60 })} />
      <NumberField
        label="Part at, °C"
        kelvin
        value={s.waitPart || NaN}
        onChange={(x) => segment(i, { waitPart: Number.isNaN(x) ? 0 : x })}
      />
    </div>
  );
}
