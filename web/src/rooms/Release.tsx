// Stage 8: expected beside measured, the limits, and the decision.
import { useEffect, useState } from "react";
import { Link, useParams } from "react-router";
import { api, client, useChange, type Schemas } from "../app/api";
import { useSession } from "../app/session";
import { useTitle } from "../app/shell";
import { Fuse } from "../ui/Fuse";
import { mm, moment, percent } from "../ui/format";
import {
  Big,
  Button,
  Caution,
  Heading,
  Loading,
  Mark,
  NumberField,
  Refusal,
  Row,
  Rule,
  Stack,
  Table,
  TextField,
} from "../ui/parts";
import { Seam, type Difference } from "../ui/Seam";

type Line = Schemas["ReleaseLine"];
const show = (what: string, v: number) => (what === "mass" ? `${v.toFixed(3)} kg` : `${mm(v, 2)} mm`);

export function Release() {
  const { code = "" } = useParams();
  const sheet = api.useQuery("get", "/api/release/{code}", { params: { path: { code } } });
  const { person } = useSession();
  const dispose = useChange("/api/release/{code}");
  const [mass, setMass] = useState(NaN);
  const [points, setPoints] = useState([NaN, NaN, NaN]);
  const [reason, setReason] = useState("");
  const [trial, setTrial] = useState<{ lines: Line[]; error: unknown }>({ lines: [], error: null });
  const v = sheet.data;
  useTitle(v ? `Release ${v.build.number} ${v.build.serial}` : "Release");
  const measured = points.filter((p) => p > 0).map((p) => p / 1e3);
  const ready = mass > 0 && measured.length > 0;
  const key = JSON.stringify([mass, measured]);
  const open = v?.build.stage === "release";
  useEffect(() => {
    if (!ready || !open) return;
    let stale = false;
    const [m, thickness] = JSON.parse(key) as [number, number[]];
    void client
      .POST("/api/release/{code}/compare", { params: { path: { code } }, body: { mass: m, thickness } })
      .then(({ data, error }) => {
        if (!stale) setTrial({ lines: data ?? [], error: error ?? null });
      });
    return () => void (stale = true);
  }, [key, ready, open, code]);
  if (!v) return <Loading error={sheet.error} />;
  const b = v.build;
  const lines = v.lines.length > 0 ? v.lines : ready ? trial.lines : [];
  const allMet = lines.length > 0 && lines.every((l) => l.met) && v.missing.length === 0;
  const differences: Difference[] = lines.map((l) => ({
    says: `${l.found >= l.expected ? "+" : "−"}${percent(Math.abs(l.found / l.expected - 1), 1)} %`,
    tone: l.met ? "met" : "stop",
  }));
  const sign = (disposition: "good" | "refer" | "scrap") =>
    dispose.mutate({ code, body: { mass, thickness: measured, disposition, reason } });
  return (
    <Seam
      names={["As planned", "As measured"]}
      differences={differences}
      planned={
        <Stack $gap={14}>
          <div>
            <Heading>
              {b.number} · serial {b.serial} · revision {b.letter} · as planned
            </Heading>
            <Big>{b.name}</Big>
          </div>
          <Table>
            <thead>
              <tr>
                <th>Limit</th>
                <th className="n">Low</th>
                <th className="n">Expected</th>
                <th className="n">High</th>
              </tr>
            </thead>
            <tbody>
              <Limit
                what="mass"
                name="Mass, nothing bled or trimmed"
                expected={v.expected.mass}
                tolerance={v.process.massTolerance}
              />
              <Limit
                what="thickness"
                name="Thickness in the field"
                expected={v.expected.thickness}
                tolerance={v.process.thicknessTolerance}
              />
            </tbody>
          </Table>
          <Rule />
          <Heading>What the record says</Heading>
          <Table>
            <tbody>
              <tr>
                <td>Plies signed</td>
                <td>
                  <Mark tone={b.laid === b.plies ? "met" : "stop"}>
                    {b.laid} of {b.plies}
                  </Mark>
                </td>
              </tr>
              <tr>
                <td>Cure run {b.run && <Link to={`/cure/${b.run}`}>{b.run}</Link>}</td>
                <td>
                  {v.verdict ? (
                    <Mark tone={v.verdict.met ? "met" : "stop"}>
                      {v.verdict.met ? "every limit met" : "a limit not met"}, degree of cure {percent(v.verdict.cure)} %
                    </Mark>
                  ) : (
                    <Mark tone="stop">not judged</Mark>
                  )}
                </td>
              </tr>
              {v.missing.map((m) => (
                <tr key={m}>
                  <td colSpan={2}>
                    <Mark tone="stop">{m}</Mark>
                  </td>
                </tr>
              ))}
              {v.referred.map((r) => (
                <tr key={r.seq}>
                  <td colSpan={2}>
                    <Mark tone="attend">
                      referred at the bench by {r.person}: {r.why}
                    </Mark>
                  </td>
                </tr>
              ))}
            </tbody>
          </Table>
          {b.fuse && <Fuse fuse={b.fuse} tall ended={b.run !== undefined} />}
          <Link to={`/thread/${code}`}>The whole thread of this part</Link>
        </Stack>
      }
      built={
        <Stack $gap={14}>
          <Heading>As measured</Heading>
          {open && (
            <>
              <div style={{ display: "grid", gridTemplateColumns: "1.3fr 1fr 1fr 1fr", gap: 12 }}>
                <NumberField bench label="Mass on the scale, kg" value={mass} onChange={setMass} min={0} digits={4} />
                {points.map((p, i) => (
                  <NumberField
                    key={i}
                    bench
                    label={`Thickness ${i + 1}, mm`}
                    value={p}
                    onChange={(n) => setPoints(points.map((q, k) => (k === i ? n : q)))}
                    min={0}
                    digits={3}
                  />
                ))}
              </div>
              <div>
                <Button $quiet onPress={() => setPoints([...points, NaN])}>
                  One more point
                </Button>
              </div>
            </>
          )}
          <Table>
            <thead>
              <tr>
                <th>Quantity</th>
                <th className="n">Found</th>
                <th className="n">Limits</th>
                <th>Verdict</th>
              </tr>
            </thead>
            <tbody>
              {lines.length === 0 && (
                <tr>
                  <td colSpan={4}>Nothing measured yet</td>
                </tr>
              )}
              {lines.map((l) => (
                <tr key={l.what}>
                  <td>{l.what}</td>
                  <td className="n">
                    <b>{show(l.what, l.found)}</b>
                  </td>
                  <td className="n">
                    {show(l.what, l.low)} to {show(l.what, l.high)}
                  </td>
                  <td>
                    <Mark tone={l.met ? "met" : "stop"}>{l.met ? "met" : "not met"}</Mark>
                  </td>
                </tr>
              ))}
            </tbody>
          </Table>
          <Refusal error={dispose.error ?? (ready ? trial.error : null)} />
          {v.disposition ? (
            <p style={{ fontSize: 22 }}>
              <Mark tone={v.disposition === "good" ? "met" : "stop"}>{v.disposition}</Mark>, signed by {v.person},{" "}
              {v.at && moment(v.at)}
              {v.reason && `: ${v.reason}`}
            </p>
          ) : open ? (
            <>
              {!["quality", "administrator"].includes(person.role) && (
                <Mark tone="attend">Signing a part off is for quality. You may measure; one of them signs.</Mark>
              )}
              <TextField label="Reason (for refer and scrap)" value={reason} onChange={setReason} />
              <Row>
                <Button $bench isDisabled={!ready || !allMet || dispose.isPending} onPress={() => sign("good")}>
                  Sign: good
                </Button>
                <Button
                  $bench
                  $quiet
                  isDisabled={!ready || reason.trim() === "" || dispose.isPending}
                  onPress={() => sign("refer")}
                >
                  Refer
                </Button>
                <Button
                  $bench
                  $quiet
                  isDisabled={!ready || reason.trim() === "" || dispose.isPending}
                  onPress={() => sign("scrap")}
                >
                  Scrap
                </Button>
              </Row>
            </>
          ) : (
            <p>This build waits at {b.stage}.</p>
          )}
          <Caution>
            “Good” states that what was recorded met the limits entered. It does not state that the part is safe or fit for any
            use: the engineer of record decides that.
          </Caution>
        </Stack>
      }
    />
  );
}

function Limit({ what, name, expected, tolerance }: { what: string; name: string; expected: number; tolerance: number }) {
  return (
    <tr>
      <td>
        {name} <small>±{percent(tolerance)} %</small>
      </td>
      <td className="n">{show(what, expected * (1 - tolerance))}</td>
      <td className="n">
        <b>{show(what, expected)}</b>
      </td>
      <td className="n">{show(what, expected * (1 + tolerance))}</td>
    </tr>
  );
}
