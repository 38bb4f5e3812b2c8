// Nests beside each other: another roll, other kits, a longer search; then one is taken.
import { useQueries } from "@tanstack/react-query";
import { Link, useSearchParams } from "react-router";
import { api } from "../../app/api";
import { useTitle } from "../../app/shell";
import type { Schemas } from "../../contract/types";
import { Fuse } from "../../ui/Fuse";
import { percent, spell, told } from "../../ui/format";
import { Big, Heading, Loading, Mark, Page, Refusal, Table } from "../../ui/parts";
import { NestDrawing } from "../../ui/NestDrawing";
import { State } from "./CutQueue";

const most = 4;
const line = { borderBottom: "1px solid var(--g4)" };

export function Compare() {
  useTitle("Compare nests");
  const [query] = useSearchParams();
  const codes = (query.get("nests") ?? "").split(",").filter(Boolean).slice(0, most);
  const nests = useQueries({
    queries: codes.map((code) => ({
      ...api.queryOptions("get", "/api/nests/{code}", { params: { path: { code } } }),
      // One that is searched still is read again.
      refetchInterval: (q: { state: { data?: Schemas["NestView"] | undefined } }) =>
        q.state.data?.state === "running" || q.state.data?.state === "queued" ? 1000 : (false as const),
    })),
  });
  const there = nests.flatMap((n) => (n.data ? [n.data] : []));
  const ways = useQueries({
    queries: there.map((n) => ({
      ...api.queryOptions("get", "/api/nests/{code}/way", { params: { path: { code: n.code } } }),
      enabled: n.placed.length > 0 && n.state !== "running" && n.state !== "queued",
    })),
  });
  const wrong = nests.find((n) => n.error)?.error;
  if (there.length === 0) return <Loading error={wrong} />;
  const rows: [string, (n: Schemas["NestView"], k: number) => React.ReactNode][] = [
    ["State", (n) => <State state={n.state} />],
    ["Roll", (n) => `${n.roll}, ${told.size(n.width, 0)} wide, ${told.run(n.rollLeft)} left`],
    ["Kits", (n) => n.builds.map((b) => `${b.number} · ${b.serial}`).join(", ")],
    ["Plies", (n) => `${n.placed.length}${n.left.length ? `, ${n.left.length} left out` : ""}`],
    ["Length of roll", (n) => <b>{n.length ? told.run(n.length) : "–"}</b>],
    ["Cloth", (n) => told.area(n.length * n.width)],
    ["Yield", (n) => (n.yield ? `${percent(n.yield, 1)} % of at most ${percent(n.atMost, 1)} %` : "–")],
    [
      "Largest rectangle left",
      (n) => (n.rest && n.rest.width > 0 ? `${told.size(n.rest.width, 0)} × ${told.size(n.rest.height, 0)}` : "none"),
    ],
    ["Knife", (_, k) => (ways[k]?.data ? spell(ways[k].data.seconds) : "–")],
    [
      "Life of the roll used",
      (n) =>
        n.rollOutTime.ages && n.rollOutTime.life > 0
          ? `${percent(n.rollOutTime.spent / n.rollOutTime.life)} %`
          : "does not age",
    ],
    ["Clock of the roll", (n) => <Fuse fuse={n.rollOutTime} />],
  ];
  return (
    <Page>
      <Heading>As planned</Heading>
      <Big>Compare nests</Big>
      <Refusal error={wrong} />
      <Table style={{ marginTop: 14, tableLayout: "fixed" }}>
        <CompareHead there={there} />
        <tbody>
          <tr>
            <th scope="row" style={line}>
              Drawing
            </th>
            {there.map((n) => (
              <td key={n.code}>
                {n.placed.length > 0 ? <NestDrawing nest={n} width={520} /> : <Mark tone="plain">nothing yet</Mark>}
              </td>
            ))}
          </tr>
          {rows.map(([name, cell]) => (
            <tr key={name}>
              <th scope="row" style={line}>
                {name}
              </th>
              {there.map((n, k) => (
                <td key={n.code}>{cell(n, k)}</td>
              ))}
            </tr>
          ))}
        </tbody>
      </Table>
      <p style={{ marginTop: 10 }}>
        <Link to="/cut">Back to what waits to be cut</Link>. When one is cut, the others that hold the same plies are
        released.
      </p>
    </Page>
  );
}

/** The nests that are compared. */
function CompareHead({ there }: { there: Schemas["NestView"][] }) {
  return (
    <thead>
      <tr>
        <th style={{ width: 150 }} />
        {there.map((n) => (
          <th key={n.code}>
            <Link to={`/cut/${n.code}`}>
              <b style={{ fontSize: 18 }}>{n.code}</b>
            </Link>
          </th>
        ))}
      </tr>
    </thead>
  );
}
