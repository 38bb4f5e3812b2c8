// For a new colleague: a cure stepped through, with the reason for each segment and what goes on in the part meanwhile.
import { useEffect, useState } from "react";
import { useParams } from "react-router";
import styled from "styled-components";
import { api } from "../../app/api";
import { useKeys } from "../../app/keys";
import { useTitle } from "../../app/shell";
import type { Schemas } from "../../contract/types";
import { percent, spell, told } from "../../ui/format";
import { Big, Button, Caution, Heading, Loading, Page, Refusal, Row, SelectField } from "../../ui/parts";
import { plain } from "../../ui/units";
import { Curve, Legend } from "./Curve";
import { Flow } from "./Flow";
import { Pressure } from "./Pressure";
import { CureTabs } from "./Tabs";
import { ends, frame, useForecast } from "./useForecast";

const Now = styled.dl`
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(170px, 1fr));
  gap: 4px 20px;
  margin: 8px 0 10px;
  padding: 8px 0;
  border-block: 1px solid var(--g3);
  dt,
  small {
    display: block;
    font-size: 14px;
    color: var(--g1);
  }
  dd {
    margin: 0;
    min-height: 46px;
  }
  b {
    font-size: 19px;
  }
`;

export function StepThrough() {
  const { id = "" } = useParams();
  const kept = api.useQuery("get", "/api/recipes/{id}", { params: { path: { id: +id } } });
  if (!kept.data) return <Loading error={kept.error} />;
  return (
    <>
      <CureTabs />
      <Steps r={kept.data} />
    </>
  );
}

function Steps({ r }: { r: Schemas["RecipeView"] }) {
  useTitle(`${r.name}, step by step`);
  const forecast = useForecast({ resinId: r.resinId, equipment: r.equipment, plan: r.plan });
  const f = forecast.data;
  const [at, setAt] = useState(0);
  const [runs, setRuns] = useState(false);
  const [section, setSection] = useState(0);
  const long = f?.duration ?? 0;
  useEffect(() => {
    if (!runs || !long) return;
    // The whole cure in a minute.
    const tick = setInterval(() => setAt((t) => Math.min(long, t + long / 300)), 200);
    return () => clearInterval(tick);
  }, [runs, long]);
  const own = f ? ends(f, r.plan) : [];
  const k = Math.max(
    0,
    own.findLastIndex((e) => e.from <= at + 1),
  );
  const go = (to: number) => setAt(own[Math.min(own.length - 1, Math.max(0, to))]?.from ?? 0);
  useKeys({
    ArrowRight: { label: "next segment", run: () => go(k + 1) },
    ArrowLeft: { label: "segment before", run: () => go(k - 1) },
  });
  if (!f) return forecast.error ? <Refusal error={forecast.error} /> : <Loading />;
  const p = f.points.reduce((a, b) => (Math.abs(b.t - at) < Math.abs(a.t - at) ? b : a));
  const part = p.parts[section]!;
  const s = r.plan.recipe.segments[k]!;
  const set = f.sections[section]!.gelled;
  const gelled = set !== undefined && at >= set;
  const thinnest = f.events.find((e) => e.kind === "thinnest" && e.section === section)?.t;
  const { thin } = r.plan.limits;
  const happens = f.events.filter(
    (e) => (e.section === section || e.section < 0) && e.t >= (own[k]?.from ?? 0) - 1 && e.t < (own[k]?.end ?? 0),
  );
  const now: [name: string, value: string, note: string][] = [
    [`air, set to ${told.degrees(p.setPoint)}`, told.degrees(p.air), p.waiting ? "waits for the part" : ""],
    [
      "part, coldest to hottest",
      `${told.degrees(part.lag)} to ${told.degrees(part.lead)}`,
      part.lead > p.air + 1 ? "it heats itself" : "",
    ],
    [
      "min. degree of cure",
      `${percent(part.least, 1)} %`,
      gelled ? "gelled: it keeps its shape" : thinnest !== undefined && at > thinnest ? "thickening" : "",
    ],
    [
      "viscosity, least",
      part.thin === undefined ? "–" : `${plain(part.thin, part.thin < 10 ? 1 : 0)} Pa s`,
      part.thin === undefined ? "no longer flows" : !thin ? "" : part.thin <= thin ? "flows" : "hardly flows",
    ],
    ...(part.glass === undefined
      ? []
      : ([
          [
            "min. glass transition",
            told.degrees(part.glass),
            part.glass > part.lead ? "above the part: it is a glass" : "below the part: it is soft",
          ],
        ] satisfies [string, string, string][])),
    [
      "pressure and vacuum",
      `${told.pressure(p.pressure)}, ${told.vacuum(p.vacuum, 0)}`,
      !gelled && p.vapour > p.resin ? "water vapour is not held shut" : "",
    ],
  ];
  const plot = { paddingLeft: `${(100 * frame.left) / frame.W}%`, paddingRight: `${(100 * frame.right) / frame.W}%` };
  return (
    <Page>
      <Row $between>
        <StepHead r={r} k={k} own={own} s={s} />
        <PlaceAndRun
          f={f}
          section={section}
          setSection={setSection}
          go={go}
          k={k}
          own={own}
          setRuns={setRuns}
          runs={runs}
        />
      </Row>
      <StepText runs={runs} r={r} k={k} happens={happens} />
      <InThePart now={now} />
      <label style={{ display: "block", ...plot }}>
        <small>After {spell(at)}</small>
        <input
          type="range"
          min={0}
          max={Math.round(f.duration)}
          step={10}
          value={Math.round(at)}
          aria-valuetext={spell(at)}
          onChange={(e) => setAt(+e.target.value)}
          style={{ width: "100%", height: 28, margin: 0, accentColor: "var(--blue)" }}
        />
      </label>
      <Curve f={f} plan={r.plan} section={section} now={at} />
      <Flow f={f} section={section} limits={r.plan.limits} long={Math.max(600, f.duration)} />
      <Pressure f={f} limits={r.plan.limits} long={Math.max(600, f.duration)} />
      <Legend f={f} section={section} />
      <Caution>
        Simulated from the figures entered. Hot tools, pressure vessels and vacuum have interlocks of their own: follow
        their makers, the resin supplier’s data sheet, local codes and the responsible engineer.
      </Caution>
    </Page>
  );
}

/** What the part is like now. */
function InThePart({ now }: { now: [string, string, string][] }) {
  return (
    <Now aria-label="In the part now">
      {now.map(([name, value, note], n) => (
        <div key={n}>
          <dt>{name}</dt>
          <dd>
            <b>{value}</b>
            <small>{note}</small>
          </dd>
        </div>
      ))}
    </Now>
  );
}

/** Which place, and whether time runs. */
function PlaceAndRun({
  f,
  section,
  setSection,
  go,
  k,
  own,
  setRuns,
  runs,
}: {
  f: Schemas["CureOut"];
  section: number;
  setSection: (value: number | ((prevState: number) => number)) => void;
  go: (to: number) => void;
  k: number;
  own: { from: number; ramp: number; end: number }[];
  setRuns: (value: boolean | ((prevState: boolean) => boolean)) => void;
  runs: boolean;
}) {
  return (
    <Row $gap={12}>
      {f.sections.length > 1 && (
        <SelectField label="Place" value={section} onChange={(e) => setSection(+e.target.value)}>
          {f.sections.map((x, n) => (
            <option key={n} value={n}>
              {x.name}
            </option>
          ))}
        </SelectField>
      )}
      <Button $bench $quiet onPress={() => go(k - 1)} why={k === 0 ? "The first." : ""}>
        Before
      </Button>
      <Button $bench onPress={() => go(k + 1)} why={k + 1 === own.length ? "The last." : ""}>
        Next
      </Button>
      <Button $bench $quiet onPress={() => setRuns(!runs)}>
        {runs ? "Hold it" : "Let it run"}
      </Button>
    </Row>
  );
}

/** Which recipe goes step by step. */
function StepHead({
  r,
  k,
  own,
  s,
}: {
  r: Schemas["RecipeView"];
  k: number;
  own: { from: number; ramp: number; end: number }[];
  s: Schemas["Segment"];
}) {
  return (
    <div>
      <Heading>
        {r.name}, step by step · {r.resin} · {r.equipment}
      </Heading>
      <Big>
        {k + 1} of {own.length}: to {told.degrees(s.target)}
        {s.hold > 0 && `, ${spell(s.hold)}`}
      </Big>
    </div>
  );
}

/** What happens in the step. */
function StepText({
  runs,
  r,
  k,
  happens,
}: {
  runs: boolean;
  r: Schemas["RecipeView"];
  k: number;
  happens: Schemas["CureEvent"][];
}) {
  return (
    <p aria-live={runs ? "off" : "polite"} style={{ fontSize: 21, lineHeight: 1.35, maxWidth: "62em", marginTop: 8 }}>
      {r.plan.reasons?.[k] || "Nobody has written down why. Ask who wrote the recipe."}
      {happens.length > 0 && (
        <small style={{ display: "block" }}>{happens.map((e) => `${spell(e.t)}: ${e.kind}`).join(" · ")}</small>
      )}
    </p>
  );
}
