// An operation as it was done: what it took on the last builds, against what was planned, and
// what was said.
import { Link } from "react-router";
import { api } from "../../app/api";
import { moment, spell } from "../../ui/format";
import { Heading, Mark, Stack, Table } from "../../ui/parts";
import { said } from "../../ui/units";
import type { Operation } from "./lanes";

export function LastBuilds({ code, o }: { code: string; o: Operation }) {
  const asked = api.useQuery("get", "/api/parts/{code}/last-builds", {
    params: { path: { code }, query: { operation: o.key } },
  });
  const all = asked.data ?? [];
  if (all.length === 0) return null;
  const planned = (o.setUp ?? 0) + (o.attended ?? 0) + (o.unattended ?? 0);
  return (
    <Stack $gap={8}>
      <Heading>On the last {all.length === 1 ? "build" : `${all.length} builds`} · as built</Heading>
      <Table>
        <thead>
          <tr>
            <th>Serial</th>
            <th>Took</th>
            <th>Remarks</th>
          </tr>
        </thead>
        <tbody>
          {all.map((b) => (
            <tr key={b.build}>
              <td>
                <Link to={`/finish/${b.build}?operation=${encodeURIComponent(o.key)}`}>{b.serial}</Link>{" "}
                <small>{b.letter}</small>
              </td>
              <td>
                {b.took !== undefined ? (
                  <>
                    {spell(b.took)} {planned > 0 && <b>{against(b.took - planned)}</b>}
                  </>
                ) : (
                  b.state
                )}
                {b.at && (
                  <>
                    <br />
                    <small>{moment(b.at)}</small>
                  </>
                )}
              </td>
              <td>
                {b.reasons?.map((s) => (
                  <div key={s}>
                    <Mark tone="attend">{said(s)}</Mark>
                  </div>
                ))}
              </td>
            </tr>
          ))}
        </tbody>
      </Table>
    </Stack>
  );
}

/** How much longer or shorter it took than planned. */
const against = (s: number) => (Math.abs(s) < 60 ? "as planned" : `${s > 0 ? "+" : "−"}${spell(Math.abs(s))}`);
