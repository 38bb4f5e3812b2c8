// How a revision is made and what it is held against.
import { memo, useEffect, useEffectEvent, type FormEvent } from "react";
import styled from "styled-components";
import { api, useChange } from "../../app/api";
import type { Schemas } from "../../contract/types";
import { useKept } from "../../app/kept";
import { useSay } from "../../ui/say";
import { percent, spell, told } from "../../ui/format";
import { Button, Heading, Mark, Refusal, Row, SelectField, Stack, Table, TextField } from "../../ui/parts";
import { RestoredEntries } from "../../ui/RestoredEntries";
import { Figure } from "../master/Detail";
import { LimitsForm } from "./LimitsForm";
import { Simulated, RecipeForm, RecipeRead, heatOf } from "./Recipe";
import { inOwn } from "../../ui/units";

type Process = Schemas["Process"];
type Inspection = Schemas["Inspection"];

export function ProcessForm({
  v,
  writes,
  open,
}: {
  v: Schemas["RevisionView"];
  writes: boolean;
  /** Told whether something is typed that is not kept yet. */
  open?: (changed: boolean) => void;
}) {
  const tools = api.useQuery("get", "/api/tools");
  const say = useSay();
  // What is not kept yet survives the page, with the version and the process that it was made from.
  const typed = useKept(`process ${v.part.code} ${v.letter}`, () => ({
    p: v.process,
    tests: v.process.inspections ?? [],
    was: v.process,
    version: v.version,
    changed: false,
  }));
  const save = useChange(
    "/api/parts/{code}/draft",
    () => (typed.done(), say("The process is kept.", true)),
    typed.forget,
  );
  const { p, tests, was, version, changed } = typed.value;
  // What is stored meanwhile, here or elsewhere, is taken over where nothing is typed.
  const begin = useEffectEvent(() => typed.done());
  useEffect(() => {
    if (!changed && version !== v.version) begin();
  }, [changed, version, v.version]);
  const differs = changed && JSON.stringify(was ?? v.process) !== JSON.stringify(v.process);
  const setTests = (next: Inspection[]) => typed.set((t) => ({ ...t, tests: next, changed: true }));
  const set = (part: Partial<Process>) => typed.set((t) => ({ ...t, p: { ...t.p, ...part }, changed: true }));
  const tell = useEffectEvent(open ?? (() => undefined));
  useEffect(() => {
    tell(changed);
    return () => tell(false);
  }, [changed]);
  const submit = (e: FormEvent) => {
    e.preventDefault();
    save.mutate({
      code: v.part.code,
      body: { version, was, process: { ...p, inspections: tests.length > 0 ? tests : undefined } },
    });
  };
  if (!writes)
    return (
      <Stack $gap={14}>
        <ProcessRead p={v.process} />
        <Halves>
          <RecipeRead cured={v.process} />
          <Simulated code={v.part.code} letter={v.letter} question={{ process: v.process }} />
        </Halves>
      </Stack>
    );
  const text = (name: "demould" | "trimming" | "bonding", label: string) => (
    <div style={{ flex: "1 1 240px" }}>
      <TextField label={label} value={p[name] ?? ""} onChange={(x) => set({ [name]: x || undefined })} />
    </div>
  );
  const optional: (keyof Process)[] = ["bleed", "pressureMax", "pressForce"];
  const figure = (label: string, name: keyof Process, scale: number) => (
    <Figure
      label={label}
      scale={scale}
      need={!optional.includes(name)}
      value={p[name] as number | undefined}
      set={(x) => set({ [name]: x ?? 0 })}
    />
  );
  return (
    <form onSubmit={submit}>
      <Stack $gap={14}>
        <Heading>Tool, debulk, bag</Heading>
        <Row $gap={12} style={{ alignItems: "flex-end" }}>
          <SelectField label="Tool" value={p.tool} onChange={(e) => set({ tool: e.target.value })}>
            {!tools.data?.some((t) => t.name === p.tool) && <option>{p.tool}</option>}
            {tools.data?.map((t) => (
              <option key={t.id}>{t.name}</option>
            ))}
          </SelectField>
          <SelectField
            label="First debulk after ply 1"
            value={String(p.debulkFirst)}
            onChange={(e) => set({ debulkFirst: e.target.value === "true" })}
          >
            <option value="true">yes</option>
            <option value="false">no</option>
          </SelectField>
          {figure("then every … plies", "debulkEvery", 1)}
          {figure("Debulk, min", "debulkSeconds", 1 / 60)}
          {figure("at least, kPa", "debulkVacuum", 1e-3)}
        </Row>
        <Row $gap={12} style={{ alignItems: "flex-end" }}>
          <SelectField label="Bag" value={p.bagStack} onChange={(e) => set({ bagStack: e.target.value })}>
            {["no bleed", "bleed", "caul"].map((b) => (
              <option key={b}>{b}</option>
            ))}
          </SelectField>
          {figure("Bleeds, % of resin", "bleed", 100)}
          {figure("Leak: starts at, kPa", "leakStart", 1e-3)}
          {figure("loses at most, kPa", "leakDrop", 1e-3)}
          {figure("in, min", "leakSeconds", 1 / 60)}
        </Row>
        <Heading>Cure</Heading>
        <Halves>
          <RecipeForm
            cured={heatOf(p)}
            set={set}
            take={({ limits, ...h }) => set({ ...h, pressureMax: h.pressureMax, runLimits: limits })}
          />
          <Simulated code={v.part.code} letter={v.letter} question={{ process: p }} />
        </Halves>
        <LimitsForm run={{ limits: p.runLimits }} set={({ limits }) => set({ runLimits: limits })} />
        <Row $gap={12} style={{ alignItems: "flex-end" }}>
          {figure("Max. pressure, kPa", "pressureMax", 1e-3)}
          {figure("Closing force of the press, kN", "pressForce", 1e-3)}
        </Row>
        <Heading>Demould, trim, bond</Heading>
        <Row $gap={12} style={{ alignItems: "flex-end" }}>
          {text("demould", "Demould")}
          {text("trimming", "Trim")}
          {text("bonding", "Bond")}
        </Row>
        <Heading>Inspection</Heading>
        <Row $gap={12} style={{ alignItems: "flex-end" }}>
          {figure("Mass within ±, %", "massTolerance", 100)}
          {figure("Thickness within ±, %", "thicknessTolerance", 100)}
        </Row>
        <MeasurementTable tests={tests} setTests={setTests} />
        <MeasurementVerbs setTests={setTests} tests={tests} p={p} set={set} />
        <Refusal error={save.error} />
        <RestoredEntries since={typed.since} forget={typed.done} />
        {differs && (
          <Row role="status" $gap={10}>
            <Mark tone="attend">
              The stored process was changed meanwhile: what you typed is still here and not stored.
            </Mark>
            <Button $quiet $small onPress={typed.done}>
              Take the stored one
            </Button>
          </Row>
        )}
        <Row>
          <Button type="submit" isDisabled={save.isPending}>
            Keep the process
          </Button>
          {changed && <Mark tone="attend">changed, not kept yet</Mark>}
        </Row>
      </Stack>
    </form>
  );
}

const Halves = styled.div`
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(100%, 520px), 1fr));
  gap: 16px 32px;
  align-items: start;
`;

/** The process in a few lines. */
export const ProcessRead = memo(ProcessReadOf);

function ProcessReadOf({ p }: { p: Process }) {
  return (
    <Stack $gap={6}>
      <p style={{ fontSize: 15.5 }}>
        <b>Made by:</b> debulk {p.debulkFirst ? "after ply 1, then " : ""}every {p.debulkEvery} plies,{" "}
        {spell(p.debulkSeconds)} at {told.vacuum(p.debulkVacuum, 0)} · bag “{p.bagStack}”, leak at most{" "}
        {told.vacuum(p.leakDrop)} in {spell(p.leakSeconds)} · {p.recipe.name}{" "}
        {p.pressureMax ? `· pressure at most ${told.pressure(p.pressureMax)} ` : ""}· mass ±{percent(p.massTolerance)}{" "}
        %, thickness ±{percent(p.thicknessTolerance)} %
      </p>
      {[
        ["Demould", p.demould],
        ["Trim", p.trimming],
        ["Bond", p.bonding],
        ["Qualifications to lay or bag it", p.qualifications?.join(", ")],
      ].map(
        ([k, v]) =>
          v && (
            <p key={k}>
              <b>{k}:</b> {v}
            </p>
          ),
      )}
      {(p.inspections ?? []).map((i) => (
        <p key={i.what}>
          <b>{i.what}:</b>{" "}
          {[i.least, i.target, i.most].map((x) => (x === undefined ? "–" : inOwn(x, i.unit))).join(" / ")}{" "}
          <small>{i.instrument}</small>
        </p>
      ))}
    </Stack>
  );
}

/** What is measured on the finished part. */
function MeasurementTable({
  tests,
  setTests,
}: {
  tests: Schemas["Inspection"][];
  setTests: (next: Schemas["Inspection"][]) => void;
}) {
  return (
    <Table>
      <thead>
        <tr>
          <th>Measurements</th>
          <th>Minimum</th>
          <th>Target</th>
          <th>Maximum</th>
          <th>Unit</th>
          <th>Instrument</th>
          <th />
        </tr>
      </thead>
      <tbody>
        {tests.map((t, k) => {
          const put = (part: Partial<Inspection>) => setTests(tests.map((x, n) => (n === k ? { ...x, ...part } : x)));
          return (
            <tr key={k}>
              <td>
                <TextField label="What" value={t.what} onChange={(what) => put({ what })} />
              </td>
              {(["least", "target", "most"] as const).map((f) => (
                <td key={f}>
                  <Figure label={f} scale={1} value={t[f]} set={(x) => put({ [f]: x })} />
                </td>
              ))}
              <td>
                <TextField label="Unit" value={t.unit} onChange={(unit) => put({ unit })} />
              </td>
              <td>
                <TextField
                  label="Instrument"
                  value={t.instrument ?? ""}
                  onChange={(x) => put({ instrument: x || undefined })}
                />
              </td>
              <td>
                <Button
                  $quiet
                  $small
                  onPress={() => setTests(tests.filter((_, n) => n !== k))}
                  aria-label={`Remove ${t.what}`}
                >
                  Remove
                </Button>
              </td>
            </tr>
          );
        })}
      </tbody>
    </Table>
  );
}

/** Adds a measurement. */
function MeasurementVerbs({
  setTests,
  tests,
  p,
  set,
}: {
  setTests: (next: Schemas["Inspection"][]) => void;
  tests: Schemas["Inspection"][];
  p: Schemas["Process"];
  set: (part: Partial<Schemas["Process"]>) => void;
}) {
  return (
    <Row $gap={12} style={{ alignItems: "flex-end" }}>
      <Button $quiet $small onPress={() => setTests([...tests, { what: "", unit: "mm" }])}>
        Add a value to measure
      </Button>
      <span>Qualifications to lay or bag it:</span>
      {["laminating", "bagging", "oven", "bonding", "inspection"].map((q) => (
        <label key={q} style={{ minHeight: 32, display: "inline-flex", gap: 6, alignItems: "center" }}>
          <input
            type="checkbox"
            checked={p.qualifications?.includes(q) ?? false}
            onChange={(e) =>
              set({
                qualifications: e.target.checked
                  ? [...(p.qualifications ?? []), q]
                  : p.qualifications?.filter((x) => x !== q),
              })
            }
          />
          {q}
        </label>
      ))}
    </Row>
  );
}
