// Loading the oven: what waits, what the load would do together, and the checks before the door closes.
import { keepPreviousData } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { api, useChange } from "../../app/api";
import type { Schemas } from "../../contract/types";
import { useKeys } from "../../app/keys";
import { Offer } from "../../app/Offer";
import { useSession } from "../../app/session";
import { useTitle } from "../../app/shell";
import { Fuse } from "../../ui/Fuse";
import { moment, spell } from "../../ui/format";
import { Big, Button, Caution, Empty, Heading, Loading, Refusal, Stack, Table } from "../../ui/parts";
import { placeOf } from "../../ui/RouteSteps";
import { SimulatedPlaces } from "../../ui/SimulatedPlaces";
import { Seam } from "../../ui/Seam";
import { CureTabs } from "./Tabs";
import { RunState } from "./CureRun";

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

/** What is looked at before a run. */
function BeforeTheDoorCloses() {
  return (
    <Caution>
      Before the door closes: vacuum lines on, sensors in the part’s leading and lagging places. Ovens and pressure
      vessels keep their own interlocks; follow their maker, the resin supplier’s data sheet and local codes.
    </Caution>
  );
}
