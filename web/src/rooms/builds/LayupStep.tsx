// What is to be done next at the bench: a ply to lay, a debulk, a demand of the
// master that stops the work, or the way on.
import { useEffect, useState } from "react";
import { Link } from "react-router";
import styled from "styled-components";
import { api, useChange } from "../../app/api";
import type { Schemas } from "../../contract/types";
import { useKeys } from "../../app/keys";
import { useSession } from "../../app/session";
import { angle, clock, spell, told } from "../../ui/format";
import { edges, Plan, placed } from "../../ui/Hatch";
import { counted } from "../../ui/now";
import { placeOf } from "../../ui/RouteSteps";
import { Button, Mark, NumberField, Refusal, Row, Rule, SelectField, Stack } from "../../ui/parts";
import { Sign } from "../../ui/Sign";
import { ConfirmReading } from "../../ui/ConfirmReading";
import { said, unitName } from "../../ui/units";

type Layup = Schemas["LayupView"];
type Ply = Schemas["PlyView"];

const Huge = styled.div`
  font-size: 84px;
  font-weight: 700;
  line-height: 1;
  letter-spacing: -0.03em;
`;

export const Bench = styled.div`
  font-size: 22px;
  line-height: 1.3;
`;

export const Foot = styled(Row)`
  font-size: 18px;
  b {
    font-size: 20px;
  }
`;

export function ToLay({ v, ply }: { v: Layup; ply: Ply }) {
  const edge = edges(ply.outline);
  const at = v.steps.findIndex((s) => !s.debulk && s.ply === ply.number);
  const after = v.steps[at + 1];
  const debulk = v.steps.slice(at).find((s) => s.debulk);
  const follows = after?.debulk ? v.steps[at + 2]?.ply : after?.ply;
  const then = v.plies.find((p) => p.number === follows);
  return (
    <>
      <Row $gap={28} style={{ marginTop: 6, alignItems: "flex-end", flexWrap: "nowrap" }}>
        <Bench>
          Lay ply
          <Huge>{ply.number}</Huge>
          <span style={{ color: "var(--g1)", fontSize: 18 }}>of {v.plies.length}</span>
        </Bench>
        <Bench>
          <Huge style={{ fontSize: 72 }}>{angle(ply.angleDeg)}</Huge>
          {ply.material}, {ply.shape}
          <br />
          {ply.woven ? "warp face" : "face"} <b>{ply.faceUp ? "up" : "down"}</b>,{" "}
          {ply.films === 0 ? "no film" : ply.films === 1 ? "one film" : "two films"}
          {ply.putOn && (
            <>
              <br />
              <b>{said(ply.putOn)}</b>
            </>
          )}
          {(edge.x !== 0 || edge.y !== 0) && (
            <>
              <br />
              left edge <b style={{ fontSize: 30, whiteSpace: "nowrap" }}>x {placed(edge.x)}</b>, lower edge{" "}
              <b style={{ fontSize: 30, whiteSpace: "nowrap" }}>
                y {placed(edge.y)} <small>{unitName("size")}</small>
              </b>
            </>
          )}
        </Bench>
      </Row>
      <Plan
        plies={v.plies}
        shown={ply.number}
        width={560}
        height={370}
        label={`Where ply ${ply.number} lies: ${ply.shape} at ${angle(ply.angleDeg)}`}
      />
      <Rule />
      <Foot $between>
        <span>
          {then ? `Next: ply ${then.number}, ${angle(then.angleDeg)}, ${then.material}` : "This is the last ply"}
        </span>
        {debulk && (
          <span>
            <b>Debulk after ply {debulk.ply}</b> · {spell(v.process.debulkSeconds)}
          </span>
        )}
      </Foot>
    </>
  );
}

export function ToDebulk({ v, code, operation, after }: { v: Layup; code: string; operation: string; after: number }) {
  const start = useChange("/api/layup/{code}/debulk");
  const end = useChange("/api/layup/{code}/debulk/end");
  const lays = useSession().may("lay and debulk") && !v.waits;
  const [vacuum, setVacuum] = useState(NaN);
  const finish = (sure = false) =>
    end.mutate({ code, operation, body: { vacuum: vacuum * 1e3, ...(sure ? { sure } : {}) } });
  const [now, setNow] = useState(Date.now());
  const session = api.useQuery("get", "/api/session");
  // The shop's clock rules, not the tablet's.
  const skew = session.data ? new Date(session.data.now).getTime() - session.dataUpdatedAt : 0;
  useEffect(() => {
    const t = setInterval(() => setNow(Date.now()), 500);
    return () => clearInterval(t);
  }, []);
  const run = v.running;
  const gone = run ? Math.max(0, (now + skew - new Date(run.startedAt).getTime()) / 1000) : 0;
  const left = v.process.debulkSeconds - gone;
  useKeys({
    d: { label: "start the debulk", run: () => start.mutate({ code, operation }), off: run !== undefined || !lays },
    k: { label: "end the debulk", run: () => finish(), off: !run || !lays || !(vacuum >= 0) },
  });
  return (
    <Stack $gap={16} style={{ marginTop: 8 }}>
      <Bench>
        Debulk after ply
        <Huge>{after}</Huge>
        {spell(v.process.debulkSeconds)} at {told.vacuum(v.process.debulkVacuum, 0)} of vacuum or deeper
      </Bench>
      {run ? (
        <>
          <Bench role="timer">
            {left > 0 ? "Left" : "Long enough, for"}
            <Huge style={{ fontSize: 72 }}>{counted(left)}</Huge>
            started {clock(run.startedAt)} by {run.startedBy}
          </Bench>
          {lays && (
            <>
              <div style={{ maxWidth: 300 }}>
                <NumberField
                  bench
                  label="Vacuum read at the end, kPa"
                  value={vacuum}
                  onChange={setVacuum}
                  min={0}
                  max={101.3}
                />
              </div>
              <Button
                $bench
                onPress={() => finish()}
                why={vacuum >= 0 ? "" : "Type the vacuum that the gauge reads."}
                isDisabled={end.isPending}
              >
                {left > 0 ? "End it now, too short to count" : "Debulk done"}
              </Button>
            </>
          )}
        </>
      ) : (
        lays && (
          <Button $bench onPress={() => start.mutate({ code, operation })} isDisabled={start.isPending}>
            Vacuum is on: start the debulk
          </Button>
        )
      )}
      <Refusal error={start.error ?? end.error} />
      <ConfirmReading error={end.error} sure={() => finish(true)} />
      {v.debulks.filter((d) => d.endedAt && !d.counts).length > 0 && <NotCounting v={v} />}
    </Stack>
  );
}

/** A lay without a step at the bench, as that of a core: it is signed on the way of its build. */
export function ToSign({ v, code }: { v: Layup; code: string }) {
  if (!v.at) return null;
  return (
    <Stack $gap={12} style={{ marginTop: 8 }}>
      <Bench>
        {v.at.label}
        <br />
        has no ply: it is signed as a whole.
      </Bench>
      <Link to={placeOf(code, v.at)}>
        <b style={{ fontSize: 20 }}>{v.at.state === "done" ? "As signed" : "Sign it"}</b>
      </Link>
    </Stack>
  );
}

/** A demand of the master that stands at this step: it stops the work until it is signed. */
export function ToMeet({ v, code, step }: { v: Layup; code: string; step: Schemas["StepView"] }) {
  const hold = useChange("/api/layup/{code}/hold");
  const second = useChange("/api/layup/{code}/second");
  const lays = useSession().may("lay and debulk") && !v.waits;
  const [who, setWho] = useState(0);
  const laid = v.laid.find((l) => l.ply === step.ply && step.demand === "second");
  const others = v.seconds.filter((p) => p.name !== laid?.person);
  const chosen = who || (others[0]?.id ?? 0);
  const done = () => hold.mutate({ code, body: { key: step.key! } });
  useKeys({ k: { label: "the hold point is done", run: done, off: step.demand !== "hold" || !lays } });
  return (
    <Stack $gap={16} style={{ marginTop: 8 }}>
      <Bench>
        {step.demand !== "hold"
          ? "Two people"
          : v.plies.length === 0
            ? "Hold point: work stops until"
            : `Hold point at ply ${step.ply}: work stops until`}
        <Huge style={{ fontSize: 40, lineHeight: 1.1, letterSpacing: 0 }}>{step.text}</Huge>
      </Bench>
      {step.demand === "hold" ? (
        lays && (
          <Button $bench onPress={done} isDisabled={hold.isPending}>
            It is done: sign
          </Button>
        )
      ) : (
        <Stack $gap={12} style={{ fontSize: 20 }}>
          <p>Somebody other than the person who laid it checks it and signs with their own PIN.</p>
          <SelectField label="Checked by" value={chosen} onChange={(e) => setWho(Number(e.target.value))}>
            {others.map((p) => (
              <option key={p.id} value={p.id}>
                {p.name}
              </option>
            ))}
          </SelectField>
          <Sign
            label="Their PIN"
            action="Sign as second person"
            why={chosen === 0 ? "Nobody else may sign it." : ""}
            busy={second.isPending}
            sign={(pin) => second.mutate({ code, body: { key: step.key!, personId: chosen, pin } })}
          />
        </Stack>
      )}
      <Refusal error={hold.error ?? second.error} />
      {v.plies.length > 0 && (
        <Plan plies={v.plies} shown={step.ply} width={560} height={300} label={`Where ply ${step.ply} lies`} />
      )}
    </Stack>
  );
}

export function Whole({ v }: { v: Layup }) {
  return (
    <Stack $gap={16} style={{ marginTop: 8 }}>
      <Bench>
        Laid
        <Huge>{v.laid.length}</Huge>
        of {v.plies.length} plies, every debulk made
      </Bench>
      {v.plies.length > 0 && (
        <Plan plies={v.plies} width={560} height={330} label={v.at ? "All that is laid here" : "The whole part"} />
      )}
      {v.at ? (
        <Link to={`/finish/${v.build.code}`}>
          <b style={{ fontSize: 22 }}>Next</b>
        </Link>
      ) : (
        <Link to={`/bag/${v.build.code}`}>
          <b style={{ fontSize: 22 }}>To the bag</b>
        </Link>
      )}
    </Stack>
  );
}

/** The last debulks that do not count, and why. */
function NotCounting({ v }: { v: Schemas["LayupView"] }) {
  return (
    <p>
      {v.debulks
        .filter((d) => d.endedAt && !d.counts)
        .slice(-2)
        .map((d) => (
          <Mark key={d.startedAt} tone="attend">
            Debulk of {clock(d.startedAt)} does not count: {said(d.message)}.{" "}
          </Mark>
        ))}
    </p>
  );
}
