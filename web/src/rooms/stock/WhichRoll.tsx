// Which roll? For one build or some of its plies: the ranked answer, and for
// every roll that was passed over the reason.
import { useState } from "react";
import { Link, useSearchParams } from "react-router";
import { api } from "../../app/api";
import { useTitle } from "../../app/shell";
import { Fuse } from "../../ui/Fuse";
import { date, moment, told } from "../../ui/format";
import { Big, Empty, Heading, Loading, Mark, Row, SelectField, Stack, Table, TextField } from "../../ui/parts";
import { Seam } from "../../ui/Seam";
import { FreezerTabs } from "./tabs";
import type { Schemas } from "../../contract/types";

/** A build that waits to be cut, to choose. */
const toCut = (b: Schemas["BuildLine"]) => (
  <option key={b.code} value={b.code}>
    {b.number} · {b.serial}, cure {moment(b.cureAt)}
  </option>
);

export function WhichRoll() {
  useTitle("Which roll?");
  const [query, setQuery] = useSearchParams();
  const builds = api.useQuery("get", "/api/builds", { params: { query: { room: "cut", limit: 200 } } });
  const waiting = builds.data?.builds ?? [];
  const code = query.get("build") ?? waiting[0]?.code ?? "";
  // Typed text lives here and not in the address, which follows too late for a quick hand.
  const [plies, setPlies] = useState("");
  const answer = api.useQuery(
    "get",
    "/api/builds/{code}/which-roll",
    { params: { path: { code }, query: { plies } } },
    { enabled: code !== "", placeholderData: (before) => before },
  );
  const short = api.useQuery("get", "/api/scarcity");
  const build = builds.data?.builds.find((b) => b.code === code);
  if (!builds.data) return <Loading error={builds.error} />;
  return (
    <>
      <FreezerTabs />
      <Seam
        left="minmax(0, 0.62fr)"
        names={["What is to be cut", "Rolls compared"]}
        planned={
          <Stack $gap={12}>
            <Heading>What is to be cut</Heading>
            <Big>Which roll?</Big>
            {waiting.length === 0 && !build ? (
              <Empty>Nothing waits to be cut. A build that does is listed here, with the rolls compared for it.</Empty>
            ) : (
              <>
                <SelectField
                  label="Build"
                  value={code}
                  onChange={(e) => {
                    setPlies("");
                    setQuery({ build: e.target.value });
                  }}
                >
                  {!waiting.some((b) => b.code === code) && build && <option value={code}>{build.number}</option>}
                  {waiting.map(toCut)}
                </SelectField>
                <PliesField plies={plies} setPlies={setPlies} />
              </>
            )}
            {answer.data?.map((d) => (
              <p key={d.material}>
                <b>{d.material}</b>: {d.plies} plies, {told.area(d.area)}; longest piece {told.run(d.longest)} along the
                roll, widest {told.size(d.widest, 0)} across.
              </p>
            ))}
            {answer.data?.length === 0 && <Mark tone="met">Everything of this is cut.</Mark>}
            <Heading>On hand against all open builds</Heading>
            <Table>
              <ScarceHead />
              <tbody>
                {short.data?.map((s) => (
                  <Scarce key={s.family} s={s} />
                ))}
              </tbody>
            </Table>
            <YieldNote short={short.data} />
          </Stack>
        }
        built={
          <Stack $gap={14}>
            <Heading>Off-cuts first where they fit, then the first to expire</Heading>
            {answer.data?.map((d) => (
              <RollsToTake key={d.material} d={d} />
            ))}
          </Stack>
        }
      />
    </>
  );
}

/** By which yield the needed roll is worked out. */
function YieldNote({ short }: { short: Schemas["ScarceView"][] | undefined }) {
  return (
    <small>
      Needed roll at a yield of{" "}
      {short?.map((s) => `${Math.round(s.yield * 100)} %${s.measured ? "" : " (assumed)"}`).join(", ") ?? "…"}, by past
      nests.
    </small>
  );
}

/** The rolls of a material that a build may take, the best first. */
function RollsToTake({ d }: { d: Schemas["CutDemand"] }) {
  return (
    <div>
      <Big style={{ fontSize: 24 }}>{d.material}</Big>
      {d.rolls.length === 0 && <Mark tone="stop">no roll of it on hand</Mark>}
      <ol style={{ listStyle: "none", padding: 0, margin: "6px 0 0", borderTop: "1px solid var(--ink)" }}>
        {d.rolls.map((r, i) => (
          <li
            key={r.code}
            style={{
              display: "grid",
              gridTemplateColumns: "40px 150px minmax(0, 1fr)",
              gap: 12,
              padding: "8px 0",
              borderBottom: "1px solid var(--g4)",
              alignItems: "center",
            }}
          >
            <b style={{ fontSize: 26 }}>{r.passed ? "" : i + 1}</b>
            <span>
              <Link to={`/freezer/${r.code}`}>
                <b>{r.code}</b>
              </Link>
              <br />
              <small>
                {r.kind === "off-cut" && "off-cut, "}
                {told.run(r.length)} · {told.size(r.width, 0)}
                <br />
                {r.place}
              </small>
            </span>
            <span>
              <Fuse fuse={r.outTime} />
              <Row $gap={8}>
                {r.passed ? (
                  <Mark tone="stop">passed over: {r.passed}</Mark>
                ) : (
                  <Mark tone="met">{i === 0 ? "take this one" : "fits"}</Mark>
                )}
                {!r.passed && r.warns && <Mark tone="attend">{r.warns}</Mark>}
              </Row>
            </span>
          </li>
        ))}
      </ol>
      {d.moreFit > 0 && <p>{d.moreFit} more rolls would fit.</p>}
      {d.notWeighed > 0 && <p>{d.notWeighed} more expire later and were not weighed.</p>}
    </div>
  );
}

/** What is on hand of a material beside what is needed. */
function Scarce({ s }: { s: Schemas["ScarceView"] }) {
  return (
    <tr>
      <td>{s.material}</td>
      <td className="n">{told.area(s.onHand, 1)}</td>
      <td className="n">{told.area(s.roll, 1)}</td>
      <td>
        {s.short[0] ? (
          <Mark tone="stop">
            {date(s.short[0].by)}, {s.short[0].number} · {s.short[0].serial}
          </Mark>
        ) : (
          <Mark tone="met">no</Mark>
        )}
      </td>
    </tr>
  );
}

/** The head of what is scarce. */
function ScarceHead() {
  return (
    <thead>
      <tr>
        <th>Material</th>
        <th className="n">On hand</th>
        <th className="n">Needed</th>
        <th>Runs short</th>
      </tr>
    </thead>
  );
}

/** Which plies are asked for. */
function PliesField({
  plies,
  setPlies,
}: {
  plies: string;
  setPlies: (value: string | ((prevState: string) => string)) => void;
}) {
  return (
    <TextField
      label="Only plies (numbers with commas; empty for all that is not cut)"
      value={plies}
      onChange={setPlies}
    />
  );
}
