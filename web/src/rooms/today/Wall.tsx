// The day of the whole shop, for a screen in the room: large, nothing to press, nobody
// signed in.
import styled from "styled-components";
import { api } from "../../app/api";
import { Heading, Loading, Table } from "../../ui/parts";
import { said } from "../../ui/units";
import { useNow } from "../../ui/now";
import { UnattendedTable, AtRiskTable, pressesAt, whenOf } from "./Today";
import { ShopDay } from "./ShopDay";

const Board = styled.main`
  padding: 24px 32px;
  font-size: 22px;
  display: grid;
  grid-template-columns: 1.3fr 1fr;
  gap: 12px 48px;
  header {
    grid-column: 1 / -1;
    display: flex;
    justify-content: space-between;
    align-items: baseline;
    border-bottom: 4px solid var(--ink);
  }
  header b {
    font-size: 34px;
  }
  time {
    font-size: 64px;
    font-weight: 700;
    line-height: 1.1;
    font-variant-numeric: tabular-nums;
  }
  td {
    font-size: 22px;
  }
  small {
    font-size: 18px;
  }
  @media (max-width: 900px) {
    grid-template-columns: 1fr;
  }
`;

export function Wall() {
  const wall = api.useQuery("get", "/api/wall", undefined, { refetchInterval: 15_000 });
  const now = useNow(wall.data?.now);
  const w = wall.data;
  if (!w) return <Loading error={wall.error} />;
  return (
    <Board>
      <header>
        <b>The shop today</b>
        <time>{now.toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" })}</time>
      </header>
      <section>
        <Heading>To do, most urgent first</Heading>
        <Table>
          <tbody>
            {w.jobs
              .filter((j) => !j.waits)
              .slice(0, 12)
              .map((j) => (
                <tr key={j.code + j.step.operation}>
                  <td>
                    <b>{whenOf(j, w.now)}</b>
                  </td>
                  <td>
                    <b>
                      {j.number} · {j.serial}
                    </b>{" "}
                    {j.step.label}
                    <br />
                    <small>
                      {[
                        j.step.state === "in work" && `in work${j.step.by ? `, ${j.step.by}` : ""}`,
                        j.held && `held: ${j.held}`,
                        j.step.place,
                        pressesAt(j),
                      ]
                        .filter(Boolean)
                        .join(" · ")}
                    </small>
                  </td>
                </tr>
              ))}
          </tbody>
        </Table>
      </section>
      <section>
        <Heading>Running unattended</Heading>
        <UnattendedTable all={w.itself} still />
        <Heading style={{ marginTop: 20 }}>At risk</Heading>
        <AtRiskTable all={w.late} still />
        {w.places.places.length > 0 && (
          <>
            <Heading style={{ marginTop: 20 }}>By place</Heading>
            <ShopDay of={w.places} table={false} />
          </>
        )}
        {w.notes.length > 0 && (
          <>
            <Heading style={{ marginTop: 20 }}>From the shift before</Heading>
            {w.notes.slice(0, 3).map((n) => (
              <p key={n.at + n.text} style={{ margin: "4px 0" }}>
                {said(n.text)} <small>{n.person}</small>
              </p>
            ))}
          </>
        )}
      </section>
    </Board>
  );
}
