// The operations that somebody can go on with, of all builds.
import { Link } from "react-router";
import { api } from "../../app/api";
import { useTitle } from "../../app/shell";
import { moment, spell } from "../../ui/format";
import { Big, Empty, Heading, Loading, Mark, Page, Table } from "../../ui/parts";
import { OperationStatus } from "./OperationStatus";

export function Finish() {
  useTitle("Finish");
  const all = api.useQuery("get", "/api/finish", undefined, { refetchInterval: 15_000 });
  if (!all.data) return <Loading error={all.error} />;
  return (
    <Page>
      <Heading>To do</Heading>
      <Big>
        {all.data.length === 0
          ? "Nothing waits here"
          : `${all.data.length} ${all.data.length === 1 ? "operation" : "operations"} to go on with`}
      </Big>
      {all.data.length === 0 ? (
        <Empty>
          A demould, a trim, a bond, work sent out: an operation comes here when what it waits for is done. Only builds
          to a revision with a route have some.
        </Empty>
      ) : (
        <Table>
          <thead>
            <tr>
              <th>Part</th>
              <th>Operation</th>
              <th>Duration, place</th>
              <th>Stands</th>
              <th>Cure planned</th>
            </tr>
          </thead>
          <tbody>
            {all.data.map(({ build: b, operation: o }) => (
              <tr key={b.code + o.operation}>
                <td>
                  <b>
                    {b.number} · {b.serial}
                  </b>
                  <br />
                  <small>{b.name}</small>
                </td>
                <td>
                  <Link
                    to={`/finish/${b.code}?operation=${encodeURIComponent(o.operation)}`}
                    style={{ fontSize: 20, display: "inline-block", minHeight: 40 }}
                  >
                    {o.number} {o.label}
                  </Link>
                </td>
                <td>{[o.takes > 0 && spell(o.takes), o.place].filter(Boolean).join(", ")}</td>
                <td>
                  <OperationStatus o={o} />
                </td>
                <td>{b.run ? <Mark tone="met">cured</Mark> : moment(b.cureAt)}</td>
              </tr>
            ))}
          </tbody>
        </Table>
      )}
    </Page>
  );
}
