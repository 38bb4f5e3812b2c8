// Loading the oven, and a run: the plan as a band, the record as it
// comes, and how it was judged.
import { keepPreviousData, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { api, useChange, useEvents } from "../../app/api";
import type { Schemas } from "../../contract/types";
import { useKeys } from "../../app/keys";
import { Offer } from "../../app/Offer";
import { useSession } from "../../app/session";
import { useTitle } from "../../app/shell";
import { Fuse } from "../../ui/Fuse";
import { moment, percent, spell, told } from "../../ui/format";
import { figure, said, unitName } from "../../ui/units";
import {
  Big,
  Button,
  Caution,
  Empty,
  Heading,
  Loading,
  Mark,
  Refusal,
  Row,
  Stack,
  Table,
  TextField,
  Spoken,
} from "../../ui/parts";
import { RunChart } from "../../ui/RunChart";
import { placeOf } from "../../ui/RouteSteps";
import { SimulatedPlaces } from "../../ui/SimulatedPlaces";
import { SegmentRead } from "../../ui/SegmentRead";
import { Seam, type Pair } from "../../ui/Seam";
import { CureTabs } from "./Tabs";

/** What waits for the oven, the first to be cured first, and what of the oven's work is signed besides. */
function toCure(builds: Schemas["BuildLine"][], busy: string | undefined) {
  const here = builds.filter((b) => !busy || b.run !== busy);
  const inOven = here.flatMap((b) => (b.open ?? []).filter((s) => s.room === "cure").map((s) => ({ b, s })));
  const waiting: { b: Schemas["BuildLine"]; s?: Schemas["RouteStep"] }[] = [
    ...here.filter((b) => !b.open).map((b) => ({ b })),
    ...inOven.filter(({ s }) => !s.single && s.state === "ready"),
  ].sort((x, y) => x.b.cureAt.localeCompare(y.b.cureAt));
  const besides = inOven.filter(({ s }) => s.single);
  return { waiting, besides };
}

const startOf = (parts: number) => `Start run with ${parts} ${parts === 1 ? "part" : "parts"}`;

export function CureStart() {
  useTitle("Cure");
  const builds = api.useQuery(
    "get",
    "/api/builds",
    { params: { query: { room: "cure" } } },
    { refetchInterval: 10_000 },
  );
  const runs = api.useQuery("get", "/api/runs", undefined, { refetchInterval: 10_000 });
  const navigate = useNavigate();
  const ovens = useSession().may("run the oven");
  const start = useChange("/api/runs", (r) => void navigate(`/cure/${r.code}`));
  const [other, setOther] = useState<string[]>([]);
  const busy = runs.data?.find((r) => r.state === "queued" || r.state === "running");
  const { waiting, besides } = toCure(builds.data?.builds ?? [], busy?.code);
  const recipeOf = (x: (typeof waiting)[number]) => x.s?.recipe ?? x.b.recipe;
  const keyOf = (x: (typeof waiting)[number]) => `${x.b.code} ${x.s?.operation ?? ""}`;
  // One run has one recipe: what has another than the first stays out unless it is ticked.
  const ticked = (x: (typeof waiting)[number]) => (recipeOf(x) === recipeOf(waiting[0]!)) !== other.includes(keyOf(x));
  const load = waiting.filter(ticked).map(({ b, s }) => ({ build: b.code, ...(s ? { operation: s.operation } : {}) }));
  const why = busy ? "One run at a time." : load.length === 0 ? "Tick a part first." : "";
  const go = () => start.mutate({ body: { loads: load } });
  useKeys({ s: { label: "start the run", run: go, off: why !== "" || start.isPending || !ovens } });
  if (!builds.data || !runs.data) return <Loading error={builds.error ?? runs.error} />;
  return (
    <>
      <CureTabs />
      <Seam
        names={["To cure", "Runs"]}
        planned={
          <Stack $gap={14}>
            <div>
              <Heading>As planned</Heading>
              <Big>To load</Big>
            </div>
            {waiting.length === 0 && (
              <Empty>Nothing waits for the oven. A build comes here when its bag has passed the leak check.</Empty>
            )}
            {waiting.map((x) => (
              <LoadChoice
                key={keyOf(x)}
                keyOf={keyOf}
                x={x}
                ticked={ticked}
                setOther={setOther}
                other={other}
                recipeOf={recipeOf}
              />
            ))}
            <SignedBesides besides={besides} />
            {load.length > 0 && <Together loads={load} />}
            <Refusal error={start.error} />
            {waiting.length > 0 && (
              <Offer act="run the oven">
                <Button $bench why={why} isDisabled={start.isPending} onPress={go}>
                  {busy ? "The oven is running" : startOf(load.length)}
                </Button>
              </Offer>
            )}
            <BeforeTheDoorCloses />
          </Stack>
        }
        built={
          <>
            <Heading>As run</Heading>
            <Big>Runs</Big>
            {runs.data.length === 0 && <Empty style={{ marginTop: 14 }}>No run yet.</Empty>}
            <Table style={{ marginTop: 10 }}>
              <tbody>
                {runs.data.map((r) => (
                  <RunRow key={r.code} r={r} />
                ))}
              </tbody>
            </Table>
          </>
        }
      />
    </>
  );
}

/** Operations of the oven that are signed, each by itself. */
function SignedBesides({ besides }: { besides: { b: Schemas["BuildLine"]; s: Schemas["RouteStep"] }[] }) {
  if (besides.length === 0) return null;
  return (
    <>
      <Heading>To be signed</Heading>
      {besides.map(({ b, s }) => (
        <Link key={b.code + s.operation} to={placeOf(b.code, s)} style={{ fontSize: 20, minHeight: 44 }}>
          {b.number} · {b.serial}: {s.label}
        </Link>
      ))}
    </>
  );
}

/** What the load would do together, asked before the door closes. */
function Together({ loads }: { loads: Schemas["OvenLoad"][] }) {
  const asked = api.useQuery(
    "post",
    "/api/runs/simulate",
    { body: { loads } },
    { placeholderData: keepPreviousData, retry: false },
  );
  if (asked.error) return <Refusal error={asked.error} />;
  const f = asked.data;
  if (!f) return null;
  return (
    <section aria-label="Simulated load">
      <Stack $gap={8}>
        <Heading>
          As simulated in {f.equipment}: {spell(f.duration)}
        </Heading>
        <SimulatedPlaces f={f} />
      </Stack>
    </section>
  );
}

export function RunState({ run }: { run: Schemas["RunLine"] }) {
  if (run.state === "queued" || run.state === "running") return <Mark tone="attend">running</Mark>;
  if (run.state !== "finished") return <Mark tone="stop">{run.state}</Mark>;
  return run.met ? <Mark tone="met">every limit met</Mark> : <Mark tone="stop">a limit not met</Mark>;
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
    difference: { label: margin(c), tone: c.met ? "met" : "stop" },
    built: (
      <>
        <b style={{ minWidth: 110 }}>{amount(c, c.found)}</b>
        <Mark tone={c.met ? "met" : "stop"}>{c.met ? "met" : "not met"}</Mark>
        <small>at {spell(c.at)}</small>
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

/** A run in the list. */
function RunRow({ r }: { r: Schemas["RunLine"] }) {
  return (
    <tr>
      <td>
        <Link to={`/cure/${r.code}`}>
          <b style={{ fontSize: 19 }}>{r.code}</b>
        </Link>
        <br />
        <small>{moment(r.at)}</small>
      </td>
      <td>
        {r.builds.join(", ")}
        <br />
        <small>{r.recipe}</small>
      </td>
      <td>
        <RunState run={r} />
      </td>
    </tr>
  );
}

/** Whether a build is loaded. */
function LoadChoice({
  keyOf,
  x,
  ticked,
  setOther,
  other,
  recipeOf,
}: {
  keyOf: (x: { b: Schemas["BuildLine"]; s?: undefined | Schemas["RouteStep"] }) => string;
  x: { b: Schemas["BuildLine"]; s?: undefined | Schemas["RouteStep"] };
  ticked: (x: { b: Schemas["BuildLine"]; s?: undefined | Schemas["RouteStep"] }) => boolean;
  setOther: (value: string[] | ((prevState: string[]) => string[])) => void;
  other: string[];
  recipeOf: (x: { b: Schemas["BuildLine"]; s?: undefined | Schemas["RouteStep"] }) => string;
}) {
  return (
    <label
      style={{
        display: "grid",
        gridTemplateColumns: "30px 220px 1fr",
        gap: 10,
        alignItems: "center",
        minHeight: 64,
      }}
    >
      <input
        type="checkbox"
        style={{ width: 24, height: 24 }}
        checked={ticked(x)}
        onChange={() => setOther(other.includes(keyOf(x)) ? other.filter((k) => k !== keyOf(x)) : [...other, keyOf(x)])}
      />
      <span>
        <b style={{ fontSize: 20 }}>
          {x.b.number} · {x.b.serial}
        </b>
        <br />
        <small>
          {x.b.name}
          {x.s && `: ${x.s.label}`}
          <br />
          {recipeOf(x)}
        </small>
      </span>
      {x.b.outTime && <Fuse fuse={x.b.outTime} />}
    </label>
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
              : `Run ${v.code}: ${v.state}${v.verdict ? `, limits ${v.verdict.met ? "met" : "not met"}` : ""}`}
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

/** What is looked at before a run. */
function BeforeTheDoorCloses() {
  return (
    <Caution>
      Before the door closes: vacuum lines on, sensors in the part’s leading and lagging places. Ovens and pressure
      vessels keep their own interlocks; follow their maker, the resin supplier’s data sheet and local codes.
    </Caution>
  );
}
