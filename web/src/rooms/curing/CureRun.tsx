// A run of the oven: planned and recorded side by side.
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { api, useChange, useEvents } from "../../app/api";
import type { Schemas } from "../../contract/types";
import { useKeys } from "../../app/keys";
import { useSession } from "../../app/session";
import { useTitle } from "../../app/shell";
import { percent, spell, told } from "../../ui/format";
import { figure, said, unitName } from "../../ui/units";
import { Big, Button, Heading, Loading, Mark, Refusal, Row, Stack, TextField, Spoken } from "../../ui/parts";
import { RunChart } from "../../ui/RunChart";
import { SimulatedPlaces } from "../../ui/SimulatedPlaces";
import { SegmentRead } from "../../ui/SegmentRead";
import { RunOutcome } from "../../ui/RunOutcome";
import { Seam, type Pair } from "../../ui/Seam";

export function RunState({ run }: { run: Schemas["RunLine"] }) {
  if (run.state === "queued" || run.state === "running") return <Mark tone="attend">running</Mark>;
  if (run.state !== "finished") return <Mark tone="stop">{run.state}</Mark>;
  return <RunOutcome of={run} />;
}

export function CureRun() {
  const { code = "" } = useParams();
  const cache = useQueryClient();
  const run = api.useQuery("get", "/api/runs/{code}", { params: { path: { code } } }, { staleTime: Infinity });
  const [live, setLive] = useState<{
    code: string;
    samples: Schemas["Sample"][];
    cure: Schemas["AlphaPoint"][];
    at?: Schemas["RunUpdate"];
  }>({ code: "", samples: [], cure: [] });
  const { may } = useSession();
  const stop = useChange("/api/runs/{code}/stop", () => setAsking(false));
  const [asking, setAsking] = useState(false);
  const [reason, setReason] = useState("");
  const v = run.data;
  const going = v?.state === "queued" || v?.state === "running";
  const from = v?.samples.at(-1)?.t ?? -1;
  const gone = useEvents<Schemas["RunUpdate"]>(going ? `/api/runs/${code}/events?from=${from}` : undefined, (u) => {
    setLive((l) => {
      const mine = l.code === code ? l : { code, samples: [], cure: [] };
      // A stream that was broken sends again what it had sent.
      const newest = mine.samples.at(-1)?.t ?? from;
      return {
        code,
        samples: [...mine.samples, ...u.samples.filter((s) => s.t > newest)],
        cure: [...mine.cure, ...u.cure.filter((c) => c.t > newest)],
        at: u,
      };
    });
    if (u.state !== "queued" && u.state !== "running") void cache.invalidateQueries();
  });
  useTitle(`Run ${code}`);
  useKeys({ o: { label: "stop the run", run: () => setAsking(true), off: !going || !may("stop a run") } });
  if (!v) return <Loading error={run.error} />;
  const more = live.code === code ? live.samples.filter((s) => s.t > from) : [];
  const samples = [...v.samples, ...more];
  const cure = [...v.cure, ...(live.code === code ? live.cure.filter((c) => c.t > from) : [])];
  const now = samples.at(-1);
  const segment = live.code === code && live.at ? live.at : v;
  const pairs: Pair[] = (v.verdict?.checks ?? []).map((c) => ({
    key: c.what,
    planned: (
      <>
        {said(c.what)}
        <b>
          {c.atLeast ? "at least" : "at most"} {amount(c, c.limit)}
        </b>
      </>
    ),
    difference: { label: c.notProven ? "not proven" : margin(c), tone: c.met ? "met" : "stop" },
    built: (
      <>
        <b style={{ minWidth: 110 }}>{amount(c, c.found)}</b>
        <Mark tone={c.met ? "met" : "stop"}>{c.notProven ? "not proven" : c.met ? "met" : "not met"}</Mark>
        <small>{c.notProven ?? `at ${spell(c.at)}`}</small>
      </>
    ),
  }));
  return (
    <>
      <RunHead v={v} now={now} cure={cure} going={going} segment={segment} gone={gone} samples={samples} />
      <Seam
        names={["As planned", "As run"]}
        pairs={pairs}
        planned={
          <>
            <Heading>Recipe</Heading>
            <ol style={{ margin: 0, paddingLeft: 22 }}>
              {v.process.recipe.segments.map((s, i) => (
                <li key={i} aria-current={going && i + 1 === segment.segment ? "step" : undefined}>
                  <SegmentRead s={s} /> {going && i + 1 === segment.segment && <Mark tone="attend">now</Mark>}
                </li>
              ))}
            </ol>
            {v.simulation && (
              <Stack $gap={8} style={{ marginTop: 16 }}>
                <Heading>
                  As simulated in {v.simulation.equipment}: {spell(v.simulation.duration)}
                </Heading>
                <SimulatedPlaces f={v.simulation} />
              </Stack>
            )}
          </>
        }
        built={
          <Stack $gap={10}>
            <Heading>Compared with the limits of the revision</Heading>
            {v.message && <Mark tone="attend">{v.message}</Mark>}
            {!v.verdict && <p>{going ? "The run is judged when it ends." : "This run was not judged."}</p>}
            {v.verdict?.notes.map((n) => (
              <p key={n}>
                <Mark tone="attend">{n}</Mark>
              </p>
            ))}
            <Refusal error={stop.error} />
            {going &&
              may("stop a run") &&
              (asking ? (
                <form
                  onSubmit={(e) => {
                    e.preventDefault();
                    stop.mutate({ code, body: { reason } });
                  }}
                >
                  <Row $top>
                    <TextField
                      label="Why is the run stopped?"
                      value={reason}
                      onChange={setReason}
                      autoFocus
                      isRequired
                    />
                    <Button
                      $bench
                      type="submit"
                      why={reason.trim() === "" ? "Enter the reason." : ""}
                      isDisabled={stop.isPending}
                    >
                      Turn the heat off
                    </Button>
                    <Button $bench $quiet onPress={() => setAsking(false)}>
                      Keep it running
                    </Button>
                  </Row>
                </form>
              ) : (
                <Row>
                  <Button $bench $quiet onPress={() => setAsking(true)}>
                    Stop the run
                  </Button>
                </Row>
              ))}
            {!going &&
              v.loaded.map((b) => (
                <Link key={b.code} to={b.room === "release" ? `/release/${b.code}` : `/thread/${b.code}`}>
                  <b>
                    {b.number} · {b.serial}: {b.room === "release" ? "to inspection" : b.room}
                  </b>
                  {b.operations && <small> · {b.operations.join(", ")}</small>}
                </Link>
              ))}
          </Stack>
        }
      />
    </>
  );
}

/** A limit or a finding in people's units; a difference of temperatures stays in K. */
function amount(c: Schemas["RunCheck"], v: number, difference = false) {
  switch (c.unit) {
    case "K":
      return difference ? told.rise(v) : told.degrees(v, 1);
    case "K/s":
      return `${told.rise(v * 60)}/min`;
    case "Pa":
      return c.atLeast ? told.vacuum(v) : told.pressure(v); // of a vacuum the least is asked for, of a pressure the most
    case "s":
      return v < 600 ? `${v.toFixed(0)} s` : spell(v);
    default:
      return `${percent(v, 1)} %`;
  }
}

/** How far a finding lies from its limit: + on the side that is met. */
function margin(c: Schemas["RunCheck"]) {
  return `${c.met ? "+" : "−"}${amount(c, Math.abs(c.found - c.limit), true)}`;
}

function Number({ label, value, unit }: { label: string; value: string; unit: string }) {
  return (
    <span style={{ lineHeight: 1.1 }}>
      <small>{label}</small>
      <br />
      <b style={{ fontSize: 38, letterSpacing: "-0.02em" }}>{value}</b> <small>{unit}</small>
    </span>
  );
}

/** What run it is and where it stands. */
function RunHead({
  v,
  now,
  cure,
  going,
  segment,
  gone,
  samples,
}: {
  v: Schemas["RunView"];
  now: undefined | Schemas["Sample"];
  cure: Schemas["AlphaPoint"][];
  going: boolean;
  segment: Schemas["RunUpdate"];
  gone: boolean;
  samples: Schemas["Sample"][];
}) {
  return (
    <div style={{ padding: "16px 24px 0" }}>
      <Row $between>
        <div>
          <Heading>
            Run {v.code} · {v.recipe} · {v.oven}
          </Heading>
          <Big>{v.builds.join(", ")}</Big>
        </div>
        <Row $gap={28}>
          <Number
            label="part, lagging"
            value={now?.lag == null ? "–" : figure("temperature", now.lag, 0)}
            unit={unitName("temperature")}
          />
          <Number
            label="air"
            value={now?.air == null ? "–" : figure("temperature", now.air, 0)}
            unit={unitName("temperature")}
          />
          <Number
            label="vacuum"
            value={now?.vacuum == null ? "–" : figure("vacuum", now.vacuum, 0)}
            unit={unitName("vacuum")}
          />
          {now?.pressure != null && (
            <Number label="pressure" value={figure("pressure", now.pressure, 0)} unit={unitName("pressure")} />
          )}
          <Number label="degree of cure" value={cure.length ? percent(cure.at(-1)!.alpha) : "–"} unit="%" />
          <Spoken>
            {going
              ? `Segment ${segment.segment} of ${v.process.recipe.segments.length}${segment.waiting ? ", waiting for the part" : ""}${gone ? ", connection lost" : ""}`
              : `Run ${v.code}: ${v.state}${v.verdict ? `, limits ${v.verdict.met ? "met" : v.verdict.notProven ? "not proven" : "not met"}` : ""}`}
          </Spoken>
          <span style={{ fontSize: 18 }}>
            {going ? (
              <Mark tone="attend">
                segment {segment.segment} of {v.process.recipe.segments.length}
                {segment.waiting && ", waiting for the part"}
                {gone && ", connection lost"}
              </Mark>
            ) : (
              <RunState run={v} />
            )}
            <br />
            {now && `${spell(now.t)} by the oven’s clock`}
          </span>
        </Row>
      </Row>
      <RunChart
        plan={v.plan}
        samples={samples}
        cure={cure}
        height={300}
        label={`Temperatures of run ${v.code} over ${now ? spell(now.t) : "no time yet"}, plan as a band`}
      />
    </div>
  );
}
