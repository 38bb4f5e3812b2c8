// What waits to be cut, by material, with the rolls ranked for it.
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { api } from "../../app/api";
import type { Schemas } from "../../contract/types";
import { useTitle } from "../../app/shell";
import { moment, percent, told } from "../../ui/format";
import { Big, Button, Empty, Heading, Loading, Mark, Row, Spoken, Table } from "../../ui/parts";
import { Seam } from "../../ui/Seam";
import { NewNest } from "./NewNest";

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
              Nothing waits to be cut. Start a build on the page of a <Link to="/parts">part</Link>, and its plies are
              listed here by material.
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
          {demand && <NewNest key={demand.material} demand={demand} />}
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
                Compare
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
                  <NestRow key={n.code} n={n} compared={compared} setCompared={setCompared} />
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
  const [tone, label] = words[state];
  return <Mark tone={tone}>{label}</Mark>;
}

/** A nest in the list. */
function NestRow({
  n,
  compared,
  setCompared,
}: {
  n: Schemas["NestLine"];
  compared: string[];
  setCompared: (value: string[] | ((prevState: string[]) => string[])) => void;
}) {
  return (
    <tr>
      <td>
        <input
          type="checkbox"
          aria-label={`Compare ${n.code}`}
          checked={compared.includes(n.code)}
          disabled={!compared.includes(n.code) && compared.length >= 4}
          onChange={() => setCompared((b) => (b.includes(n.code) ? b.filter((c) => c !== n.code) : [...b, n.code]))}
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
  );
}
