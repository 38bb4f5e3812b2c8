// The thread. From a part to its rolls, people and run; from a roll
// to every part it went into.
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { api, useChange } from "../../app/api";
import type { Schemas } from "../../contract/types";
import { asLabel, useScan } from "../../app/keys";
import { useSession } from "../../app/session";
import { useTitle } from "../../app/shell";
import { Fuse } from "../../ui/Fuse";
import { clock, date, moment, ranges, signature, told } from "../../ui/format";
import { Big, Empty, Heading, LinkButton, Loading, Mark, Page, Row, Stack, Table, TextField } from "../../ui/parts";
import { ReasonForm } from "../../ui/ReasonForm";
import { Seam, type Difference } from "../../ui/Seam";
import { RunState } from "../curing/CureRun";
import { said } from "../../ui/units";

export function Thread() {
  const { code } = useParams();
  const navigate = useNavigate();
  useTitle("Thread");
  useScan((id) => {
    if (!/^[RB]/.test(id)) return false;
    void navigate(`/thread/${asLabel(id)}`);
    return true;
  });
  if (!code) return <Search />;
  return code.startsWith("R") ? <OfRoll code={code} /> : <OfBuild code={code} />;
}

function Search() {
  const [q, setQ] = useState("");
  const hits = api.useQuery("get", "/api/find", { params: { query: { q } } }, { enabled: q.trim() !== "" });
  const builds = api.useQuery("get", "/api/builds", {});
  const rolls = api.useQuery("get", "/api/rolls");
  const list = (rows: { id: string; label: string; path: string }[]) => (
    <Table>
      <tbody>
        {rows.map((r) => (
          <tr key={r.id}>
            <td style={{ width: 130 }}>
              <Link to={r.path}>
                <b>{r.id}</b>
              </Link>
            </td>
            <td>{said(r.label)}</td>
          </tr>
        ))}
      </tbody>
    </Table>
  );
  return (
    <Page>
      <Heading>Thread</Heading>
      <Big>Follow the thread, either way</Big>
      <div style={{ maxWidth: 620, margin: "14px 0" }}>
        <TextField label="A part, serial, batch or id; or scan a label" value={q} onChange={setQ} />
      </div>
      {q.trim() ? (
        hits.data && (hits.data.length ? list(hits.data) : <Empty>No match for “{q}”.</Empty>)
      ) : (
        <Row $top $gap={48}>
          <section style={{ flex: 1 }}>
            <Heading>From a part back to its material</Heading>
            {list(
              (builds.data?.builds ?? []).map((b) => ({
                id: b.code,
                label: `${b.number} · ${b.serial}, ${b.name}, ${b.room}`,
                path: `/thread/${b.code}`,
              })),
            )}
          </section>
          <section style={{ flex: 1 }}>
            <Heading>From a roll to every part</Heading>
            {list(
              (rolls.data?.rolls ?? []).map((r) => ({
                id: r.code,
                label: `${r.material}, batch ${r.batch}`,
                path: `/thread/${r.code}`,
              })),
            )}
          </section>
        </Row>
      )}
    </Page>
  );
}

const standing = (b: Schemas["BuildLine"]) =>
  b.room === "finished" ? `signed ${b.outcome}` : b.room === "ended" ? `ended: ${b.ended}` : `waits at ${b.room}`;

/** A build that is given up: it leaves every queue and stays on record. */
function EndBuild({ b }: { b: Schemas["BuildLine"] }) {
  const { may } = useSession();
  const end = useChange("/api/builds/{code}/end");
  if (b.room === "finished" || b.room === "ended" || !may("end a build")) return null;
  return (
    <ReasonForm
      opens="End this build …"
      why={`End ${b.number} · ${b.serial}: why?`}
      does="End the build"
      run={{ ...end, mutate: (reason) => end.mutate({ code: b.code, body: { reason } }) }}
    >
      <p>It leaves queues and demand. What is recorded of it stays.</p>
    </ReasonForm>
  );
}

function OfBuild({ code }: { code: string }) {
  const thread = api.useQuery("get", "/api/thread/builds/{code}", { params: { path: { code } } });
  if (!thread.data) return <Loading error={thread.error} />;
  const t = thread.data;
  const b = t.build;
  const differences: Difference[] = [];
  if (t.layup.takenBack.length) differences.push({ label: `${t.layup.takenBack.length} taken back`, tone: "attend" });
  if (t.layup.filmsShort.length) differences.push({ label: "film short", tone: "stop" });
  const checks = t.bags.flatMap((x) => x.checks);
  const failed = checks.filter((c) => !c.pass).length;
  if (failed) differences.push({ label: `${failed} leak ✕`, tone: "attend" });
  for (const run of t.runs)
    if (run.state !== "finished") differences.push({ label: `run ${run.state}`, tone: "attend" });
    else if (run.met) differences.push({ label: "run met", tone: "met" });
    else differences.push({ label: run.notProven ? "run not proven" : "run not met", tone: "stop" });
  if (t.release.disposition)
    differences.push({ label: t.release.disposition, tone: t.release.disposition === "good" ? "met" : "stop" });
  return (
    <Seam
      names={["Identity", "History"]}
      left="minmax(0, 0.8fr)"
      differences={differences}
      planned={
        <Stack $gap={12}>
          <div>
            <Heading>
              Build {b.code} · revision {b.letter} ·{" "}
              <Link to={`/parts/${b.part}?revision=${b.letter}`}>the master</Link>
            </Heading>
            <Big>
              {b.number} · {b.serial}
            </Big>
            {b.name}, {standing(b)}
          </div>
          <EndBuild b={b} />
          <div>
            <LinkButton href={`/api/thread/builds/${code}/record.pdf`}>As-built record, PDF</LinkButton>
          </div>
          <Heading>Rolls</Heading>
          <RollsOf t={t} />
          {b.outTime && <Fuse fuse={b.outTime} tall ended={b.run !== undefined} />}
          <Heading>People</Heading>
          <PeopleOf t={t} />
          {t.operations.length > 0 && (
            <>
              <Heading>Route</Heading>
              <p>
                {t.operations.filter((o) => o.state === "done").length} of {t.operations.length} operations done.{" "}
                <Link to={`/finish/${code}`}>Route of this build</Link>
              </p>
            </>
          )}
          {t.preforms && t.preforms.length > 0 && (
            <>
              <Heading>Pre-forms</Heading>
              <p>
                {t.preforms.map((f) => (
                  <span key={f.code}>
                    <b>{f.code}</b> {f.name}, {f.joined ? "joined" : f.laid ? "laid" : "not laid yet"}
                    <br />
                  </span>
                ))}
              </p>
            </>
          )}
          <Heading>Runs and bags</Heading>
          <RunsOf t={t} checks={checks} />
        </Stack>
      }
      built={<LogOfBuild t={t} />}
    />
  );
}

function OfRoll({ code }: { code: string }) {
  const thread = api.useQuery("get", "/api/thread/rolls/{code}", { params: { path: { code } } });
  if (!thread.data) return <Loading error={thread.error} />;
  const { roll, builds } = thread.data;
  return (
    <Seam
      names={["The roll", "Used in"]}
      left="minmax(0, 0.6fr)"
      differences={builds.map((b) => ({ label: `${b.fromRoll.length} plies`, tone: "plain" }))}
      planned={
        <Stack $gap={12}>
          <div>
            <Heading>{roll.material}</Heading>
            <Big>Roll {roll.code}</Big>
            batch <b>{roll.batch}</b>, {told.run(roll.length)} left, {roll.place}
          </div>
          <Fuse fuse={roll.outTime} />
          <Link to={`/freezer/${roll.code}`}>Ledger</Link>
        </Stack>
      }
      built={
        <Stack $gap={12}>
          <Heading>Every part it went into</Heading>
          {builds.length === 0 && <Empty>Nothing was cut from this roll yet.</Empty>}
          <Table>
            <tbody>
              {builds.map((b) => (
                <tr key={b.code}>
                  <td>
                    <Link to={`/thread/${b.code}`}>
                      <b style={{ fontSize: 20 }}>
                        {b.number} · {b.serial}
                      </b>
                    </Link>
                    <br />
                    {b.name} <small>{b.code}</small>
                  </td>
                  <td>
                    plies {ranges(b.fromRoll.map((p) => p.ply))}
                    <br />
                    <small>
                      {b.fromRoll.filter((p) => p.laid).length} of them laid; cut {moment(b.fromRoll[0]!.cutAt)}
                    </small>
                  </td>
                  <td>
                    {b.room === "finished" ? (
                      <Mark tone={b.outcome === "good" ? "met" : "stop"}>signed {b.outcome}</Mark>
                    ) : (
                      standing(b)
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </Table>
        </Stack>
      }
    />
  );
}

/** The rolls that its plies were cut from. */
function RollsOf({ t }: { t: Schemas["BuildThread"] }) {
  return (
    <Table>
      <tbody>
        {t.rolls.length === 0 && (
          <tr>
            <td>Nothing cut yet</td>
          </tr>
        )}
        {t.rolls.map((r) => (
          <tr key={r.nest}>
            <td>
              <Link to={`/thread/${r.code}`}>
                <b>{r.code}</b>
              </Link>
            </td>
            <td>
              {r.material}
              <br />
              <small>batch {r.batch}</small>
            </td>
            <td>
              plies {ranges(r.plies)}
              <br />
              <small>
                <Link to={`/cut/${r.nest}`}>{r.nest}</Link>, {moment(r.cutAt)}
              </small>
            </td>
          </tr>
        ))}
      </tbody>
    </Table>
  );
}

/** The log of a build. */
function LogOfBuild({ t }: { t: Schemas["BuildThread"] }) {
  return (
    <Stack $gap={8}>
      <Heading>From the log, in order</Heading>
      <Table>
        <thead>
          <tr>
            <th className="n">Entry</th>
            <th>When</th>
            <th>Who</th>
            <th>What</th>
          </tr>
        </thead>
        <tbody>
          {t.log.toReversed().map((l) => (
            <tr key={l.seq}>
              <td className="n">{l.seq}</td>
              <td>
                {date(l.at)} {clock(l.at)}
              </td>
              <td>{l.person}</td>
              <td>
                {l.what}
                {l.ply ? `, ply ${l.ply} ` : " "}
                {signature(l) && <small>{signature(l)} </small>}
                {l.why && <small>{said(l.why)}</small>}
              </td>
            </tr>
          ))}
        </tbody>
      </Table>
    </Stack>
  );
}

/** Who did what. */
function PeopleOf({ t }: { t: Schemas["BuildThread"] }) {
  return (
    <Table>
      <tbody>
        {[...new Set(t.people.map((p) => p.person))].map((name) => (
          <tr key={name}>
            <td>
              <b>{name}</b>
            </td>
            <td>
              {t.people
                .filter((p) => p.person === name)
                .map((p) => `${p.what}${p.times > 1 ? ` ×${p.times}` : ""}`)
                .join(", ")}
            </td>
          </tr>
        ))}
      </tbody>
    </Table>
  );
}

/** Its cure runs and leak checks. */
function RunsOf({ t, checks }: { t: Schemas["BuildThread"]; checks: Schemas["LeakView"][] }) {
  return (
    <p>
      {t.runs.length === 0 && "no cure run yet"}
      {t.runs.map((run, k) => (
        <span key={run.code}>
          {k > 0 && <br />}
          <Link to={`/cure/${run.code}`}>{run.code}</Link> <RunState run={run} />
        </span>
      ))}
      {checks.map((c) => (
        <span key={c.at}>
          <br />
          leak check {told.vacuum(c.start)} to {told.vacuum(c.end)}:{" "}
          <Mark tone={c.pass ? "met" : "stop"}>{c.pass ? "limit met" : "limit not met"}</Mark>
        </span>
      ))}
    </p>
  );
}
