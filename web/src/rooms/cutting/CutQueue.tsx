// What waits to be cut, by material, with the rolls ranked for it.
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import styled from "styled-components";
import { api, useChange } from "../../app/api";
import type { Schemas } from "../../contract/types";
import { useKeys } from "../../app/keys";
import { Offer } from "../../app/Offer";
import { useSession } from "../../app/session";
import { useTitle } from "../../app/shell";
import { Fuse } from "../../ui/Fuse";
import { moment, percent, told } from "../../ui/format";
import { Big, Button, Empty, Heading, Loading, Mark, Refusal, Row, Rule, Spoken, Table } from "../../ui/parts";
import { Seam } from "../../ui/Seam";

type Demand = Schemas["CutDemand"];

const Choice = styled.label<{ $on: boolean; $passed: boolean }>`
  display: grid;
  grid-template-columns: 26px 110px 1fr;
  gap: 10px;
  align-items: center;
  padding: 8px 6px;
  min-height: 56px;
  border-bottom: 1px solid var(--g4);
  ${(p) => p.$on && "background: var(--wash);"}
  input {
    width: 22px;
    height: 22px;
    accent-color: var(--blue);
  }
`;

export function CutQueue() {
  useTitle("Cut");
  const queue = api.useQuery("get", "/api/cut");
  const nests = api.useQuery("get", "/api/nests");
  const [at, setAt] = useState(0);
  const navigate = useNavigate();
  const [compared, setCompared] = useState<string[]>([]);
  if (!queue.data) return <Loading error={queue.error} />;
  const demand = queue.data[Math.min(at, queue.data.length - 1)];
  return (
    <Seam
      names={["To cut", "Nests"]}
      planned={
        <>
          <Heading>As planned</Heading>
          <Big>To cut</Big>
          {!demand && (
            <Empty style={{ marginTop: 14 }}>
              Nothing waits for the knife. Start a build on the page of a <Link to="/parts">part</Link>, and its plies
              stand here by material.
            </Empty>
          )}
          {queue.data.length > 1 && (
            <Row style={{ marginTop: 12 }}>
              {queue.data.map((d, i) => (
                <Button key={d.material} $quiet={d !== demand} aria-pressed={d === demand} onPress={() => setAt(i)}>
                  {d.material}
                </Button>
              ))}
            </Row>
          )}
          {demand && <Ask key={demand.material} demand={demand} />}
        </>
      }
      built={
        <>
          <Heading>As cut</Heading>
          <Big>Nests</Big>
          {nests.data?.length === 0 && <Empty style={{ marginTop: 14 }}>No nest yet.</Empty>}
          {nests.data && nests.data.length > 0 && (
            <Row style={{ marginTop: 10 }}>
              <Button
                $quiet
                why={compared.length > 1 ? "" : "Tick two to four nests."}
                onPress={() => void navigate(`/cut/compare?nests=${compared.join(",")}`)}
              >
                Beside each other
              </Button>
            </Row>
          )}
          {nests.data && nests.data.length > 0 && (
            <Table style={{ marginTop: 12 }}>
              <thead>
                <tr>
                  <th>
                    <Spoken>Compare</Spoken>
                  </th>
                  <th>Nest</th>
                  <th>Roll</th>
                  <th className="n">Plies</th>
                  <th className="n">Length</th>
                  <th className="n">Yield</th>
                  <th>State</th>
                </tr>
              </thead>
              <tbody>
                {nests.data.map((n) => (
                  <tr key={n.code}>
                    <td>
                      <input
                        type="checkbox"
                        aria-label={`Compare ${n.code}`}
                        checked={compared.includes(n.code)}
                        disabled={!compared.includes(n.code) && compared.length >= 4}
                        onChange={() =>
                          setCompared((b) => (b.includes(n.code) ? b.filter((c) => c !== n.code) : [...b, n.code]))
                        }
                        style={{ width: 22, height: 22, accentColor: "var(--blue)" }}
                      />
                    </td>
                    <td>
                      <Link to={`/cut/${n.code}`}>
                        <b>{n.code}</b>
                      </Link>
                      <br />
                      <small>{moment(n.at)}</small>
                    </td>
                    <td>
                      {n.roll}
                      <br />
                      <small>{n.material}</small>
                    </td>
                    <td className="n">{n.pieces}</td>
                    <td className="n">{n.length ? told.run(n.length) : ""}</td>
                    <td className="n">{n.yield ? `${percent(n.yield, 1)} %` : ""}</td>
                    <td>
                      <State state={n.state} />
                    </td>
                  </tr>
                ))}
              </tbody>
            </Table>
          )}
        </>
      }
    />
  );
}

export function State({ state }: { state: Schemas["NestLine"]["state"] }) {
  const words = {
    queued: ["plain", "waiting"],
    running: ["attend", "searching"],
    done: ["attend", "to cut"],
    failed: ["stop", "no nest"],
    cut: ["met", "cut"],
    released: ["plain", "released"],
  } as const;
  const [tone, says] = words[state];
  return <Mark tone={tone}>{says}</Mark>;
}

/** A build, or one operation of it. */
const keyOf = (b: Demand["builds"][number]) => (b.operation ? `${b.code} ${b.operation}` : b.code);

function Ask({ demand: all }: { demand: Demand }) {
  const navigate = useNavigate();
  const { may } = useSession();
  const start = useChange("/api/nests", (n) => void navigate(`/cut/${n.code}`));
  const [builds, setBuilds] = useState(all.builds.filter((b) => !b.misfit && !b.waits).map(keyOf));
  // The rolls are weighed for what is ticked: another width, other hours to cure.
  const some = api.useQuery(
    "get",
    "/api/cut",
    { params: { query: { builds } } },
    { enabled: builds.length > 0 && builds.length < all.builds.length, placeholderData: (before) => before },
  );
  const ticked =
    builds.length < all.builds.length ? some.data?.find((d) => d.materialId === all.materialId) : undefined;
  const demand = { ...all, rolls: (ticked ?? all).rolls };
  const fits = demand.rolls.filter((r) => !r.passed);
  const [chosen, setRoll] = useState("");
  const roll = demand.rolls.some((r) => r.code === chosen) ? chosen : (fits[0]?.code ?? "");
  const go = () => start.mutate({ body: { roll, builds } });
  const why =
    builds.length === 0 ? "Tick a kit first." : roll === "" ? "No roll fits: choose one, or tick other kits." : "";
  useKeys({
    Enter: { says: "search for the nest", run: go, off: why !== "" || start.isPending || !may("nest and cut") },
  });
  return (
    <>
      <Table style={{ marginTop: 12 }}>
        <thead>
          <tr>
            <th>Kit</th>
            <th className="n">Plies</th>
            <th className="n">Area</th>
            <th>Cure planned</th>
          </tr>
        </thead>
        <tbody>
          {demand.builds.map((b) => (
            <tr key={keyOf(b)}>
              <td>
                <label>
                  <input
                    type="checkbox"
                    checked={builds.includes(keyOf(b))}
                    disabled={b.waits !== undefined}
                    onChange={(e) =>
                      setBuilds(e.target.checked ? [...builds, keyOf(b)] : builds.filter((c) => c !== keyOf(b)))
                    }
                  />{" "}
                  <b>
                    {b.number} · {b.serial}
                  </b>
                  {b.says && b.says !== "cut" && <small> {b.says}</small>}
                </label>
                {b.waits && (
                  <>
                    <br />
                    <Mark tone="attend">{b.waits}</Mark>
                  </>
                )}
                {b.shares.length > 0 && (
                  <>
                    <br />
                    <small>lies well beside {b.shares.join(", ")}</small>
                  </>
                )}
                {b.misfit && (
                  <>
                    <br />
                    <Mark tone="attend">{b.misfit}</Mark>
                  </>
                )}
              </td>
              <td className="n">{b.plies}</td>
              <td className="n">{told.area(b.area)}</td>
              <td>{moment(b.cureAt)}</td>
            </tr>
          ))}
        </tbody>
      </Table>
      <Rule />
      <Heading>From which roll? First to expire that fits</Heading>
      <div role="radiogroup" aria-label="Roll">
        {demand.rolls.map((r) => (
          <Choice key={r.code} $on={r.code === roll} $passed={r.passed !== undefined}>
            <input type="radio" name="roll" checked={r.code === roll} onChange={() => setRoll(r.code)} />
            <span>
              <b>{r.code}</b>
              <br />
              <small>{told.run(r.length)}</small>
            </span>
            <span>
              <Fuse fuse={r.fuse} />
              {r.passed && <Mark tone="stop">passed over: {r.passed}</Mark>}
            </span>
          </Choice>
        ))}
      </div>
      <Refusal error={start.error} />
      <Row style={{ marginTop: 14 }}>
        <Offer act="nest and cut">
          <Button $bench onPress={go} why={why} isDisabled={start.isPending}>
            Nest {demand.builds.filter((b) => builds.includes(keyOf(b))).reduce((n, b) => n + b.plies, 0)} plies on{" "}
            {roll || "a roll"}
          </Button>
        </Offer>
      </Row>
    </>
  );
}
