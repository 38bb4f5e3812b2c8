// Batches: what was delivered, and what was decided about it.
import { useState } from "react";
import { Link } from "react-router";
import { api } from "../../app/api";
import { useSession } from "../../app/session";
import { useTitle } from "../../app/shell";
import { date, told } from "../../ui/format";
import { Big, Empty, Heading, Loading, Page, Row, Table } from "../../ui/parts";
import { FreezerTabs } from "./tabs";
import { said } from "../../ui/units";
import { BatchMark } from "./BatchPage";

export function Batches() {
  useTitle("Batches");
  const [all, setAll] = useState(false);
  const batches = api.useQuery("get", "/api/batches", { params: { query: { all } } }, { refetchInterval: 30_000 });
  const { may } = useSession();
  if (!batches.data) return <Loading error={batches.error} />;
  return (
    <>
      <FreezerTabs />
      <Page>
        <Row $between>
          <div>
            <Heading>Those that wait for a decision first</Heading>
            <Big>Batches</Big>
          </div>
          <Row>
            <label>
              <input type="checkbox" checked={all} onChange={(e) => setAll(e.target.checked)} /> also those used up
            </label>
            {may("receive material") && (
              <Link to="/freezer/receive">
                <b>Receive a delivery</b>
              </Link>
            )}
          </Row>
        </Row>
        {batches.data.length === 0 && (
          <Empty style={{ marginTop: 12 }}>
            No batch yet. A delivery is received with its lot, and waits here for its tests.
          </Empty>
        )}
        {batches.data.length > 0 && (
          <Table style={{ marginTop: 12 }}>
            <BatchHead />
            <tbody>
              {batches.data.map((b) => (
                <tr key={b.code}>
                  <td>
                    <Link to={`/freezer/batches/${b.code}`}>
                      <b style={{ fontSize: 18 }}>{b.lot}</b>
                    </Link>{" "}
                    <small>{b.code}</small>
                  </td>
                  <td>{b.material}</td>
                  <td>
                    {date(b.receivedAt)} <small>{b.receivedBy}</small>
                  </td>
                  <td>
                    {b.tests.length === 0
                      ? "none asked"
                      : `${b.tests.filter((t) => t.met !== undefined).length} of ${b.tests.length}`}
                  </td>
                  <td>
                    <BatchMark b={b} />
                    {b.blocked && (
                      <>
                        <br />
                        <small>{said(b.blocked)}</small>
                      </>
                    )}
                  </td>
                  <td className="n">{b.rolls.length}</td>
                  <td className="n">
                    {told.amount(
                      b.rolls.reduce((n, r) => n + r.length, 0),
                      b.unit,
                    )}
                  </td>
                  <td>{b.shelfEnd && date(b.shelfEnd)}</td>
                </tr>
              ))}
            </tbody>
          </Table>
        )}
      </Page>
    </>
  );
}

/** The head of the list of batches. */
function BatchHead() {
  return (
    <thead>
      <tr>
        <th>Batch</th>
        <th>Material</th>
        <th>Received</th>
        <th>Tests</th>
        <th>State</th>
        <th className="n">Rolls</th>
        <th className="n">Left</th>
        <th>Shelf life until</th>
      </tr>
    </thead>
  );
}
