// What an operation does in its own way, where the process of the revision does not decide
// for it: debulks of a lay, what a part is closed with, the run of a cure.
import { useState, type ReactNode } from "react";
import { Row, SelectField, Stack } from "../../ui/parts";
import { spell, told } from "../../ui/format";
import type { Schemas } from "../../contract/types";
import { Figure } from "../master/Detail";
import type { Operation } from "./lanes";
import { LimitsForm } from "../process/LimitsForm";
import { Simulated, RecipeForm, RecipeRead, heatOf } from "../process/Recipe";
import type { Master } from "../master/edits";

type Process = Schemas["Process"];
type Part = (part: Partial<Operation>) => void;

type Stacks = Schemas["StackView"][];

/** Which of the settings an operation of a kind has. */
const has = {
  debulks: ["lay", "join"],
  closing: ["close"],
  heat: ["cure", "post-cure", "debulk"],
} as const;

const of = (p: Process) => ({
  debulks: {
    first: p.debulkFirst,
    every: p.debulkEvery,
    seconds: p.debulkSeconds,
    vacuum: p.debulkVacuum,
  },
  closing: { stack: p.bagStack, leakStart: p.leakStart, leakDrop: p.leakDrop, leakSeconds: p.leakSeconds },
  heat: heatOf(p),
});

/** Takes away what an operation of another kind cannot have. */
export function settingsOf(kind: string, o: Operation): Partial<Operation> {
  const out: Partial<Operation> = {};
  for (const name of Object.keys(has) as (keyof typeof has)[]) {
    if (o[name] && !(has[name] as readonly string[]).includes(kind)) out[name] = undefined;
  }
  return out;
}

export function SettingsForm({
  o,
  process,
  change,
  code,
  letter,
  doc,
  stacks,
}: {
  o: Operation;
  /** Of the revision, as kept. */
  process: Process;
  change: Part | undefined;
  code: string;
  letter: string;
  doc: Master;
  /** That a part may be closed with. */
  stacks: Stacks;
}) {
  const own = of(process);
  if ((has.debulks as readonly string[]).includes(o.kind)) {
    return (
      <Own
        name="Debulks"
        own={!!o.debulks}
        reads={<DebulksRead d={own.debulks} />}
        set={change && ((is) => change({ debulks: is ? own.debulks : undefined }))}
      >
        {o.debulks && <DebulksForm d={o.debulks} set={change && ((debulks) => change({ debulks }))} />}
      </Own>
    );
  }
  if (o.kind === "close") {
    return (
      <Own
        name="Closing"
        own={!!o.closing}
        reads={<ClosingRead c={own.closing} stacks={stacks} />}
        set={change && ((is) => change({ closing: is ? own.closing : undefined }))}
      >
        {o.closing && <ClosingForm c={o.closing} stacks={stacks} set={change && ((closing) => change({ closing }))} />}
      </Own>
    );
  }
  if (!(has.heat as readonly string[]).includes(o.kind)) return null;
  return (
    <Own
      name="Recipe of the run"
      own={!!o.heat}
      reads={o.kind === "cure" ? <HeatRead h={own.heat} /> : <p>No recipe: it is signed, without a run.</p>}
      label={o.kind === "cure" ? undefined : ["nothing: signed, without a run", "a recipe of its own"]}
      set={change && ((is) => change({ heat: is ? own.heat : undefined }))}
    >
      {o.heat && change && <HeatForm h={o.heat} set={(heat) => change({ heat })} />}
      {o.heat && !change && <HeatRead h={o.heat} />}
      {(o.kind === "cure" || o.heat) && <Look code={code} letter={letter} doc={doc} operation={o.key} />}
    </Own>
  );
}

/** The choice between what the process says and something of its own, and what that is. */
function Own({
  name,
  own,
  reads,
  label = ["as the process of the revision", "its own"],
  set,
  children,
}: {
  name: string;
  own: boolean;
  reads: ReactNode;
  label?: [string, string] | string[] | undefined;
  set: ((own: boolean) => void) | undefined;
  children: ReactNode;
}) {
  return (
    <Stack $gap={8}>
      <Row $gap={14} style={{ alignItems: "flex-start" }}>
        <SelectField
          label={name}
          value={own ? "own" : "process"}
          disabled={!set}
          onChange={(e) => set?.(e.target.value === "own")}
        >
          <option value="process">{label[0]}</option>
          <option value="own">{label[1]}</option>
        </SelectField>
        {!own && <div style={{ flex: "1 1 300px", paddingTop: 24 }}>{reads}</div>}
      </Row>
      {children}
    </Stack>
  );
}

function DebulksRead({ d }: { d: Schemas["Debulks"] }) {
  if (!d.first && !d.every) return <p>never</p>;
  return (
    <p>
      {d.first && "after the first ply"}
      {d.first && d.every > 0 && ", then "}
      {d.every > 0 && `every ${d.every} plies`}, {spell(d.seconds)} at {told.vacuum(d.vacuum, 0)}
    </p>
  );
}

function DebulksForm({ d, set }: { d: Schemas["Debulks"]; set: ((d: Schemas["Debulks"]) => void) | undefined }) {
  const figure = (label: string, name: "every" | "seconds" | "vacuum", scale: number) => (
    <Figure
      need
      min={0}
      label={label}
      scale={scale}
      value={d[name]}
      off={!set}
      set={(x) => set?.({ ...d, [name]: x ?? 0 })}
    />
  );
  return (
    <Row $gap={12} style={{ alignItems: "flex-end" }}>
      <label style={{ minHeight: 40, display: "inline-flex", alignItems: "center", gap: 8 }}>
        <input
          type="checkbox"
          disabled={!set}
          checked={d.first ?? false}
          onChange={(e) => set?.({ ...d, first: e.target.checked || undefined })}
        />
        after the first ply
      </label>
      {figure("then every … plies", "every", 1)}
      {figure("Debulk, min", "seconds", 1 / 60)}
      {figure("at least, kPa", "vacuum", 1e-3)}
    </Row>
  );
}

/** Whether what is closed so is drawn down. */
const drawn = (stacks: Stacks, name: string) => stacks.find((s) => s.name === name)?.vacuum ?? true;

function ClosingRead({ c, stacks }: { c: Schemas["Closing"]; stacks: Stacks }) {
  return (
    <p>
      “{c.stack}”
      {drawn(stacks, c.stack)
        ? `, leak at most ${told.vacuum(c.leakDrop)} in ${spell(c.leakSeconds)} from ${told.vacuum(c.leakStart, 0)}`
        : ", no leak check"}
    </p>
  );
}

function ClosingForm({
  c,
  stacks,
  set,
}: {
  c: Schemas["Closing"];
  stacks: Stacks;
  set: ((c: Schemas["Closing"]) => void) | undefined;
}) {
  const figure = (label: string, name: "leakStart" | "leakDrop" | "leakSeconds", scale: number) => (
    <Figure
      need
      min={0}
      label={label}
      scale={scale}
      value={c[name]}
      off={!set}
      set={(x) => set?.({ ...c, [name]: x ?? 0 })}
    />
  );
  return (
    <Row $gap={12} style={{ alignItems: "flex-end" }}>
      <SelectField
        label="Closed with"
        value={c.stack}
        disabled={!set}
        onChange={(e) => set?.({ ...c, stack: e.target.value })}
      >
        {stacks.map((s) => (
          <option key={s.name}>{s.name}</option>
        ))}
      </SelectField>
      {drawn(stacks, c.stack) ? (
        <>
          {figure("Leak: starts at, kPa", "leakStart", 1e-3)}
          {figure("loses at most, kPa", "leakDrop", 1e-3)}
          {figure("in, min", "leakSeconds", 1 / 60)}
        </>
      ) : (
        <p style={{ paddingBottom: 10 }}>No vacuum: no leak check.</p>
      )}
    </Row>
  );
}

function HeatRead({ h }: { h: Schemas["Heat"] }) {
  return <RecipeRead cured={h} />;
}

function HeatForm({ h, set }: { h: Schemas["Heat"]; set: (h: Schemas["Heat"]) => void }) {
  return (
    <Stack $gap={10}>
      <RecipeForm cured={h} set={(part) => set({ ...h, ...part })} take={set} />
      <LimitsForm run={h} set={(part) => set({ ...h, ...part })} />
      <Row $gap={12} style={{ alignItems: "flex-end" }}>
        <Figure
          label="Max. pressure, kPa"
          scale={1e-3}
          value={h.pressureMax}
          set={(x) => set({ ...h, pressureMax: x || undefined })}
        />
        <Figure
          label="Closing force of the press, kN"
          scale={1e-3}
          value={h.pressForce}
          set={(x) => set({ ...h, pressForce: x || undefined })}
        />
      </Row>
      <small>A limit of 0 for vacuum or degree of cure asks for none, as for a press or a warm debulk.</small>
    </Stack>
  );
}

/** The run as planned, shown when it is asked for: it is work to walk. */
function Look({ code, letter, doc, operation }: { code: string; letter: string; doc: Master; operation: string }) {
  const [open, setOpen] = useState(false);
  return (
    <details open={open} onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary style={{ minHeight: 32, cursor: "pointer" }}>The run as planned, after those before it</summary>
      {open && <Simulated code={code} letter={letter} question={{ document: doc, operation }} />}
    </details>
  );
}
