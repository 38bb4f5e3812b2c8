// For a new colleague: a cure stepped through, with the reason for each segment and what goes on in the part meanwhile.
import { useEffect, useState } from "react";
import { useParams } from "react-router";
import { api } from "../../app/api";
import { useKeys } from "../../app/keys";
import { useTitle } from "../../app/shell";
import type { Schemas } from "../../contract/types";
import { percent, spell, told } from "../../ui/format";
import { Big, Button, Caution, Heading, Loading, Page, Refusal, Row, Stack, Table } from "../../ui/parts";
import { plain } from "../../ui/units";
import { Curve, Legend } from "./Curve";
import { Flow } from "./Flow";
import { Pressure } from "./Pressure";
import { CureTabs } from "./Tabs";
import { ends, useForecast } from "./useForecast";

export function Teach() {
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
    ArrowRight: { says: "next segment", run: () => go(k + 1) },
    ArrowLeft: { says: "segment before", run: () => go(k - 1) },
  });
  if (!f) return forecast.error ? <Refusal error={forecast.error} /> : <Loading />;
  const p = f.points.reduce((a, b) => (Math.abs(b.t - at) < Math.abs(a.t - at) ? b : a));
  const part = p.parts[0]!;
  const s = r.plan.recipe.segments[k]!;
  const gelled = f.sections[0]!.gelled !== undefined && at >= f.sections[0]!.gelled;
  const happens = f.events.filter((e) => e.t >= (own[k]?.from ?? 0) - 1 && e.t < (own[k]?.end ?? 0));
  return (
    <Page>
      <Heading>
        {r.name}, step by step · {r.resin} · {r.equipment}
      </Heading>
      <Big>
        {k + 1} of {own.length}: to {told.degrees(s.target)}
        {s.hold > 0 && `, ${spell(s.hold)}`}
      </Big>
      <div style={{ position: "relative" }}>
        <Curve f={f} plan={r.plan} section={0} now={at} />
        <Flow f={f} section={0} limits={r.plan.limits} long={Math.max(600, f.duration)} />
        <Pressure f={f} limits={r.plan.limits} long={Math.max(600, f.duration)} />
      </div>
      <Legend f={f} section={0} />
      <Row $gap={12} style={{ margin: "4px 0 14px" }}>
        <Button $bench $quiet onPress={() => go(k - 1)} why={k === 0 ? "The first." : ""}>
          Before
        </Button>
        <Button $bench onPress={() => go(k + 1)} why={k + 1 === own.length ? "The last." : ""}>
          Next
        </Button>
        <Button $bench $quiet onPress={() => setRuns(!runs)}>
          {runs ? "Hold it" : "Let it run"}
        </Button>
        <label style={{ flex: 1, minWidth: 240 }}>
          <small>After {spell(at)}</small>
          <input
            type="range"
            min={0}
            max={Math.round(f.duration)}
            step={60}
            value={Math.round(at)}
            aria-valuetext={spell(at)}
            onChange={(e) => setAt(+e.target.value)}
            style={{ width: "100%", height: 32, accentColor: "var(--blue)" }}
          />
        </label>
      </Row>
      <div style={{ display: "grid", gridTemplateColumns: "minmax(0, 1fr) minmax(0, 1fr)", gap: 36 }}>
        <Stack $gap={12}>
          <div>
            <Heading>Why this segment</Heading>
            <p style={{ fontSize: 22, lineHeight: 1.35 }}>
              {r.plan.reasons?.[k] ?? "Nobody has written down why. Ask who wrote the recipe."}
            </p>
          </div>
          {happens.length > 0 && (
            <div>
              <Heading>What happens in it</Heading>
              {happens.map((e) => (
                <p key={e.kind + e.t}>
                  {spell(e.t)}: {e.kind}
                </p>
              ))}
            </div>
          )}
        </Stack>
        <Table aria-live="off">
          <caption style={{ textAlign: "left" }}>
            <Heading as="span">In the part now</Heading>
          </caption>
          <tbody>
            <tr>
              <td>air, set to {told.degrees(p.setPoint)}</td>
              <td className="n">
                <b>{told.degrees(p.air)}</b>
              </td>
              <td>{p.waiting ? "waits for the part" : ""}</td>
            </tr>
            <tr>
              <td>part, coldest to hottest</td>
              <td className="n">
                <b>
                  {told.degrees(part.lag)} to {told.degrees(part.lead)}
                </b>
              </td>
              <td>{part.lead > p.air + 1 ? "it heats itself" : ""}</td>
            </tr>
            <tr>
              <td>degree of cure, least</td>
              <td className="n">
                <b>{percent(part.least, 1)} %</b>
              </td>
              <td>{gelled ? "gelled: it keeps its shape" : part.least > 0.3 ? "thickening" : ""}</td>
            </tr>
            <tr>
              <td>viscosity, where it is least</td>
              <td className="n">
                <b>{part.thin === undefined ? "–" : `${plain(part.thin, part.thin < 10 ? 1 : 0)} Pa s`}</b>
              </td>
              <td>{part.thin === undefined ? "no longer flows" : part.thin < 100 ? "flows" : "hardly flows"}</td>
            </tr>
            {part.glass !== undefined && (
              <tr>
                <td>glass transition, least</td>
                <td className="n">
                  <b>{told.degrees(part.glass)}</b>
                </td>
                <td>{part.glass > part.lead ? "above the part: it is a glass" : "below the part: it is soft"}</td>
              </tr>
            )}
            <tr>
              <td>pressure and vacuum</td>
              <td className="n">
                <b>
                  {told.pressure(p.pressure)}, {told.vacuum(p.vacuum, 0)}
                </b>
              </td>
              <td>{!gelled && p.vapour > p.resin ? "water vapour is not held shut" : ""}</td>
            </tr>
          </tbody>
        </Table>
      </div>
      <Caution>
        Foreseen from the figures entered. Hot tools, pressure vessels and vacuum have interlocks of their own: follow
        their makers, the resin supplier’s data sheet, local codes and the responsible engineer.
      </Caution>
    </Page>
  );
}
