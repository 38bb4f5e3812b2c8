// What a past run tells: heat transfer and lag of the equipment, rate of the resin, each with its spread.
import { useState } from "react";
import { api, client, useChange } from "../../app/api";
import { useSession } from "../../app/session";
import { Refused, type Schemas } from "../../contract/types";
import { moment } from "../../ui/format";
import { Button, Heading, Mark, Refusal, Row, SelectField, Table } from "../../ui/parts";
import { useSay } from "../../ui/say";
import { plain } from "../../ui/units";
import type { Asked } from "./useForecast";

type Learned = Schemas["LearnedFrom"];

export function LearnFromRun({ asked, section, ready }: { asked: Asked; section: number; ready: boolean }) {
  const runs = api.useQuery("get", "/api/runs");
  const equipment = api.useQuery("get", "/api/equipment");
  const resins = api.useQuery("get", "/api/resins");
  const { may } = useSession();
  const say = useSay();
  const [run, setRun] = useState("");
  const [found, setFound] = useState<(Learned & { run: string; resinId: number; place: string }) | null>(null);
  const [error, setError] = useState<unknown>(null);
  const [busy, setBusy] = useState(false);
  const [kept, setKept] = useState<{ oven?: number; resin?: number }>({});
  const keepOven = useChange("/api/equipment", (e) => {
    setKept((k) => ({ ...k, oven: e.version }));
    say(`Version ${e.version} of ${e.facts.name} is kept.`, true);
  });
  const keepResin = useChange("/api/runs/{code}/learn/keep", (r) => {
    setKept((k) => ({ ...k, resin: r.version }));
    say(`Version ${r.version} of ${r.name} is kept.`, true);
  });
  const over = runs.data?.filter((r) => r.state !== "queued" && r.state !== "running") ?? [];
  const of = over.find((r) => r.code === found?.run);
  const learn = async () => {
    setBusy(true);
    setError(null);
    setFound(null);
    setKept({});
    try {
      const { data, error: refused } = await client.POST("/api/runs/{code}/learn", {
        params: { path: { code: run } },
        body: { resinId: asked.resinId, equipment: asked.equipment, section: asked.plan.sections[section]! },
      });
      if (!data) throw new Refused(refused);
      setFound({ ...data, run, resinId: asked.resinId, place: asked.equipment });
    } catch (e) {
      setError(e);
    } finally {
      setBusy(false);
    }
  };
  const oven = found && equipment.data?.find((e) => e.facts.name === found.place);
  const resin = found && resins.data?.find((r) => r.id === found.resinId);
  const why = of ? `learned from run ${of.code} of ${moment(of.at)}` : "";
  const rows: [string, Schemas["LearnedFigure"] | undefined, number, string][] = [
    [found?.platens ? "heat transfer of the platens" : "heat transfer of the air", found?.film, 1, "W/(m² K)"],
    ["lag of the air", found?.lag, 0, "s"],
    ["rate of the reaction, to its law", found?.rate, 2, ""],
  ];
  return (
    <section aria-label="Learn from a run">
      <Heading>Learn from a run of this stack</Heading>
      <RunToLearnFrom run={run} setRun={setRun} over={over} learn={learn} busy={busy} ready={ready} />
      <Refusal error={error ?? keepOven.error ?? keepResin.error} />
      {found && (
        <div role="status">
          <LearnedTable rows={rows} />
          <p>
            <small>
              {!found.rate && "The readings do not tell the rate of the reaction: it is left as the law has it. "}
              From {found.used} readings of the part sensors; {plain(found.off, 1)} K are left between them and the
              model. The stack beside has to be the one that lay in the run, and ± says how well the readings tell the
              figures, not whether the stack is right.
            </small>
          </p>
          <Row $gap={10}>
            {kept.oven && <Mark tone="met">{`kept as version ${kept.oven} of ${oven?.facts.name}`}</Mark>}
            {oven && !kept.oven && may("manage tools") && (
              <Button
                $quiet
                isDisabled={keepOven.isPending}
                onPress={() =>
                  keepOven.mutate({
                    body: {
                      facts: {
                        ...oven.facts,
                        lag: found.lag.value,
                        ...(found.platens ? { contact: found.film.value } : { film: found.film.value }),
                      },
                      version: found.equipmentVersion,
                      why,
                    },
                  })
                }
              >
                Keep as a version of {oven.facts.name}
              </Button>
            )}
            {kept.resin && <Mark tone="met">{`kept as version ${kept.resin} of ${resin?.name}`}</Mark>}
            {resin && found.rate && !kept.resin && may("manage materials and resins") && (
              <Button
                $quiet
                isDisabled={keepResin.isPending}
                onPress={() =>
                  keepResin.mutate({
                    code: found.run,
                    body: { resinId: resin.id, version: found.resinVersion, rate: found.rate!.value },
                  })
                }
              >
                Keep the rate for {resin.name}
              </Button>
            )}
          </Row>
        </div>
      )}
    </section>
  );
}

/** What was learned beside what is kept. */
function LearnedTable({ rows }: { rows: [string, undefined | Schemas["LearnedFigure"], number, string][] }) {
  return (
    <Table>
      <thead>
        <tr>
          <th />
          <th className="n">as kept</th>
          <th className="n">learned</th>
        </tr>
      </thead>
      <tbody>
        {rows.flatMap(([name, v, digits, unit]) =>
          v
            ? [
                <tr key={name}>
                  <td>{name}</td>
                  <td className="n">
                    {plain(v.was, digits)} {unit}
                  </td>
                  <td className="n">
                    <b>{plain(v.value, digits)}</b> ± {plain(v.spread, digits + 1)} {unit}
                  </td>
                </tr>,
              ]
            : [],
        )}
      </tbody>
    </Table>
  );
}

/** The run that is learned from. */
function RunToLearnFrom({
  run,
  setRun,
  over,
  learn,
  busy,
  ready,
}: {
  run: string;
  setRun: (value: string | ((prevState: string) => string)) => void;
  over: Schemas["RunLine"][];
  learn: () => Promise<void>;
  busy: boolean;
  ready: boolean;
}) {
  return (
    <Row $gap={10} style={{ alignItems: "end", margin: "6px 0" }}>
      <SelectField label="Run" value={run} onChange={(e) => setRun(e.target.value)}>
        <option value="">choose</option>
        {over.map((r) => (
          <option key={r.code} value={r.code}>
            {r.code}, {moment(r.at)}, {r.builds.join(", ")}
          </option>
        ))}
      </SelectField>
      <Button
        $quiet
        onPress={() => void learn()}
        isDisabled={busy}
        why={!ready ? "Fill every field." : run === "" ? "Choose a run." : ""}
      >
        Compare with model
      </Button>
    </Row>
  );
}
