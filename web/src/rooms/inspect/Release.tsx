// Expected beside measured, the limits, and the decision.
import type { ReactNode } from "react";
import { Link, useParams } from "react-router";
import { api, useChange } from "../../app/api";
import type { Schemas } from "../../contract/types";
import { useKept } from "../../app/kept";
import { useTitle } from "../../app/shell";
import { Fuse } from "../../ui/Fuse";
import { moment, percent, told } from "../../ui/format";
import { Big, Button, Caution, Heading, Loading, Mark, NumberField, Refusal, Stack } from "../../ui/parts";
import { RestoredEntries } from "../../ui/RestoredEntries";
import { RunOutcome } from "../../ui/RunOutcome";
import { Seam, type Pair } from "../../ui/Seam";
import { inOwn, said } from "../../ui/units";
import { Decision, type Disposition } from "./Decision";
import { useTrial } from "./useTrial";

type Line = Schemas["ReleaseLine"];
const show = (what: string, v: number) => (what === "mass" ? told.mass(v) : told.size(v, 2));
const valued = (v: number, unit?: string) => (unit ? inOwn(+v.toPrecision(6), unit) : String(+v.toPrecision(6)));

export function Release() {
  const { code = "" } = useParams();
  const sheet = api.useQuery("get", "/api/release/{code}", { params: { path: { code } } });
  const typed = useKept(`release ${code}`, { mass: NaN, points: [NaN, NaN, NaN], values: [] as number[], reason: "" });
  const dispose = useChange("/api/release/{code}", typed.done);
  const { mass, points, values, reason } = typed.value;
  const put = (part: Partial<typeof typed.value>) => typed.set((t) => ({ ...t, ...part }));
  const v = sheet.data;
  useTitle(v ? `Release ${v.build.number} ${v.build.serial}` : "Release");
  const measured = points.filter((p) => p > 0).map((p) => p / 1e3);
  const ready = mass > 0 && measured.length > 0;
  const asked = v?.process.inspections ?? [];
  // A field left empty is a value that was not measured.
  const found = asked.map((_, i) => (Number.isFinite(values[i]) ? values[i]! : null));
  const open = v?.build.room === "release";
  const trial = useTrial(code, ready && open ? { mass, thickness: measured, values: found } : null);
  if (!v) return <Loading error={sheet.error} />;
  const b = v.build;
  const lines = v.lines.length > 0 ? v.lines : trial.lines;
  const main = lines.filter((l) => !l.value);
  // Why a decision cannot be signed yet, or empty.
  const unmeasured = !(mass > 0) ? "Weigh it first." : measured.length === 0 ? "Measure its thickness first." : "";
  const unmet =
    v.missing.length > 0
      ? "Its record is not complete."
      : found.includes(null)
        ? `Measure first: ${asked
            .filter((_, i) => found[i] === null)
            .map((x) => x.what)
            .join(", ")}.`
        : !lines.every((l) => l.met)
          ? "A limit is not met: refer it, or scrap it."
          : lines.length === 0
            ? "It is being compared."
            : "";
  const sign = (disposition: Disposition, pin: string) =>
    dispose.mutate({ code, body: { mass, thickness: measured, values: found, disposition, reason, pin } });
  const expectation = (what: string, name: string, limit: Schemas["Limit"], tolerance: number) => (
    <>
      <span>
        {name} <small>±{percent(tolerance)} %</small>
      </span>
      <span>
        <b>{show(what, limit.expected)}</b>{" "}
        <small>
          {show(what, limit.low)} to {show(what, limit.high)}
        </small>
      </span>
    </>
  );
  const off = (l: Line) => l.off ?? 0;
  const farthest = (of: Line[]) => {
    const worst = of.toSorted((p, q) => Math.abs(off(q)) - Math.abs(off(p)))[0];
    if (worst?.off === undefined) return undefined;
    const label = `${off(worst) < 0 ? "−" : "+"}${percent(Math.abs(off(worst)), 1)} %`;
    return { label, tone: of.every((l) => l.met) ? ("met" as const) : ("stop" as const) };
  };
  // What was left empty is not sent: the n-th line is that of the n-th point filled.
  const line = (i: number) => (points[i]! > 0 ? main[1 + points.slice(0, i).filter((p) => p > 0).length] : undefined);
  const pairs: Pair[] = [
    {
      key: "mass",
      planned: expectation("mass", "Mass, bled and trimmed as planned", v.mass, v.process.massTolerance),
      difference: farthest(main.slice(0, 1)),
      built: (
        <Measured
          line={main[0]}
          field={
            open && (
              <NumberField
                bench
                label="Mass on the scale, kg"
                value={mass}
                onChange={(n) => put({ mass: n })}
                min={0}
              />
            )
          }
        />
      ),
    },
    {
      key: "thickness",
      planned: expectation("thickness", "Thickness in the field", v.thickness, v.process.thicknessTolerance),
      difference: farthest(main.slice(1)),
      built: open ? (
        <>
          {points.map((p, i) => (
            <Measured
              key={i}
              line={line(i)}
              field={
                <NumberField
                  bench
                  label={`Thickness ${i + 1}, mm`}
                  value={p}
                  onChange={(n) => put({ points: points.map((q, k) => (k === i ? n : q)) })}
                  min={0}
                />
              }
            />
          ))}
          <Button $quiet onPress={() => put({ points: [...points, NaN] })}>
            One more point
          </Button>
        </>
      ) : (
        main.slice(1).map((l) => <Measured key={l.what} line={l} />)
      ),
    },
    ...asked.map((x, i): Pair => {
      const its = lines.filter((l) => l.value);
      // What was not measured has no line: the n-th line is that of the n-th value found.
      const l = v.disposition
        ? its.find((y) => y.what === x.what)
        : found[i] !== null
          ? its[found.slice(0, i).filter((y) => y !== null).length]
          : undefined;
      const limits = [
        x.least !== undefined && `at least ${valued(x.least, x.unit)}`,
        x.most !== undefined && `at most ${valued(x.most, x.unit)}`,
      ].filter(Boolean);
      return {
        key: `value ${i}`,
        planned: (
          <>
            <span>
              {x.what} {x.instrument && <small>by {x.instrument}</small>}
            </span>
            <span>
              {x.target !== undefined && <b>{valued(x.target, x.unit)} </b>}
              <small>{limits.join(", ") || "recorded, no limit"}</small>
            </span>
          </>
        ),
        ...(l ? { difference: { label: l.met ? "met" : "not met", tone: l.met ? "met" : "stop" } } : {}),
        built: (
          <Measured
            line={l}
            field={
              open && (
                <NumberField
                  bench
                  label={`${x.what}, ${x.unit || "no unit"}`}
                  value={values[i] ?? NaN}
                  onChange={(n) => put({ values: asked.map((_, k) => (k === i ? n : (values[k] ?? NaN))) })}
                />
              )
            }
          />
        ),
      };
    }),
    {
      key: "plies",
      planned: (
        <>
          Plies of revision {b.letter} <b>{b.plies}</b>
        </>
      ),
      difference: {
        label: `${b.plies} ${b.laid === b.plies ? "=" : "≠"} ${b.laid}`,
        tone: b.laid === b.plies ? "met" : "stop",
      },
      built: (
        <>
          <b>{b.laid}</b> signed
        </>
      ),
    },
    {
      key: "run",
      planned: (
        <>
          Cure <b>{v.process.recipe.name}</b>
        </>
      ),
      built: (
        <>
          {b.run && <Link to={`/cure/${b.run}`}>{b.run}</Link>}
          {v.verdict ? (
            <>
              <RunOutcome of={v.verdict} /> degree of cure {percent(v.verdict.cure)} %
            </>
          ) : (
            <Mark tone="stop">not judged</Mark>
          )}
        </>
      ),
    },
    {
      key: "record",
      planned: "A complete record",
      difference:
        v.missing.length > 0 ? { label: `${v.missing.length} open`, tone: "stop" } : { label: "complete", tone: "met" },
      built: <MissingOf v={v} />,
    },
  ];
  return (
    <Seam
      names={["As planned", "As measured"]}
      pairs={pairs}
      planned={
        <>
          <Heading>
            {b.number} · serial {b.serial} · revision {b.letter} · as planned
          </Heading>
          <Big>{b.name}</Big>
        </>
      }
      built={
        <>
          <Heading>As measured</Heading>
          {v.disposition ? (
            <p style={{ fontSize: 24 }}>
              <Mark tone={v.disposition === "good" ? "met" : "stop"}>{v.disposition}</Mark>, signed by {v.person},{" "}
              {v.at && moment(v.at)}
              {v.reason && `: ${v.reason}`}
            </p>
          ) : (
            <Big>
              {open
                ? "Weigh it, measure it"
                : b.room === "ended"
                  ? "This build was ended"
                  : `This build waits at ${b.room}`}
            </Big>
          )}
          {open && <RestoredEntries since={typed.since} forget={typed.done} />}
        </>
      }
      below={{
        planned: (
          <Stack $gap={14}>
            {b.outTime && <Fuse fuse={b.outTime} tall ended={b.run !== undefined} />}
            <Link to={`/thread/${code}`}>The whole thread of this part</Link>
            <Caution>
              “Good” states that what was recorded met the limits entered. It does not state that the part is safe or
              fit for any use: the engineer of record decides that.
            </Caution>
          </Stack>
        ),
        built: open && (
          <Stack $gap={14}>
            <Refusal error={dispose.error ?? trial.error} />
            <Decision
              reason={reason}
              put={put}
              unmeasured={unmeasured}
              unmet={unmet}
              busy={dispose.isPending}
              sign={sign}
            />
          </Stack>
        ),
      }}
    />
  );
}

/** A measurement, or the field for it, with whether it meets its limits. */
function Measured({ line, field }: { line?: Line; field?: ReactNode }) {
  return (
    <div style={{ width: 140 }}>
      {field || (
        <b>{line ? (line.value ? valued(line.found, line.unit) : show(line.what, line.found)) : "not measured"}</b>
      )}
      <div style={{ minHeight: 22 }}>
        {line && <Mark tone={line.met ? "met" : "stop"}>{line.met ? "met" : "not met"}</Mark>}
      </div>
    </div>
  );
}

/** What the record lacks. */
function MissingOf({ v }: { v: Schemas["ReleaseView"] }) {
  return (
    <Stack $gap={2}>
      {v.missing.length === 0 && <Mark tone="met">nothing is missing from it</Mark>}
      {v.missing.map((m) => (
        <Mark key={m} tone="stop">
          {m}
        </Mark>
      ))}
      {v.referred.map((r) => (
        <Mark key={r.seq} tone="attend">
          referred at the bench by {r.person}: {said(r.why)}
        </Mark>
      ))}
    </Stack>
  );
}
