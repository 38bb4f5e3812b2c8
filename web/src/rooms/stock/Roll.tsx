// One roll: left what it may still do, right its life as a line and its ledger.
import { useState } from "react";
import { Link, useParams } from "react-router";
import { api, useChange } from "../../app/api";
import type { Schemas } from "../../contract/types";
import { useKeys } from "../../app/keys";
import { useSession } from "../../app/session";
import { useTitle } from "../../app/shell";
import { Fuse } from "../../ui/Fuse";
import { clock, date, moment, spell, told } from "../../ui/format";
import { figure, said, unitName } from "../../ui/units";
import { LifeLine } from "../../ui/LifeLine";
import { Big, Button, Caution, Heading, Loading, Mark, Refusal, Row, Rule, Stack, Table } from "../../ui/parts";
import { Seam, type Difference } from "../../ui/Seam";
import { AddFlaw, CorrectForm, KeepOffCut, OpenBag, ScrapLength, UseLength } from "./RollForms";
import { Thaw } from "./RollClock";
import { FreezerTabs } from "./tabs";

type Detail = Schemas["RollDetail"];
type Line = Schemas["RollLine"];

const called: Record<string, string> = {
  received: "Received",
  out: "Taken out",
  in: "Put back",
  opened: "Bag opened",
  sealed: "Bag sealed",
  used: "Cut",
  scrapped: "Scrapped",
  retested: "Re-tested",
  counter: "Counter-entry",
};

type Asking = "open" | "use" | "scrap" | "offcut" | "flaw" | null;

/** What of a roll needs somebody's eye. */
function differencesOf(r: Schemas["RollDetail"]) {
  const differences: Difference[] = [];
  if (r.refusal) differences.push({ label: "not to be used", tone: "stop" });
  if (r.warm > 0) differences.push({ label: `${spell(r.warm)} too warm`, tone: "attend" });
  return differences;
}

export function RollPage() {
  const { code = "" } = useParams();
  const roll = api.useQuery("get", "/api/rolls/{code}", { params: { path: { code } } }, { refetchInterval: 20_000 });
  const { may } = useSession();
  const out = useChange("/api/rolls/out");
  const back = useChange("/api/rolls/in");
  const seal = useChange("/api/rolls/{code}/seal");
  const [asking, setAsking] = useState<Asking>(null);
  const r = roll.data;
  useTitle(r ? `Roll ${r.code}` : "Roll");
  const handle = may("handle material") && (r?.length ?? 0) > 0;
  const takeOut = () => out.mutate({ body: { rolls: [code] } });
  const putBack = () => back.mutate({ body: { rolls: [code], ...(r?.open ? { sealed: true } : {}) } });
  const done = () => setAsking(null);
  useKeys({
    t: { label: "take it out", run: takeOut, off: !handle || r?.outTime.out !== false },
    u: { label: "put it back", run: putBack, off: !handle || !r?.outTime.out },
    o: { label: "open its bag", run: () => setAsking("open"), off: !handle || !r?.outTime.out || r.open },
    Escape: { label: "cancel", run: done, off: asking === null },
  });
  if (!r) return <Loading error={roll.error} />;
  return (
    <>
      <FreezerTabs />
      <Seam
        left="minmax(0, 0.72fr)"
        names={["Remaining life", "History"]}
        differences={differencesOf(r)}
        planned={
          <Stack $gap={12}>
            <RollHead r={r} />
            <WhatItIs r={r} />
            <Fuse fuse={r.outTime} tall of="Out-time" />
            {r.refusal && <Mark tone="stop">Not to be used: {r.refusal}</Mark>}
            <TackAndShelf r={r} />
            <Thaw r={r} />
            {r.outSince && !r.open && r.coldest !== undefined && <ColdestNow r={r} coldest={r.coldest} />}
            <Refusal error={out.error ?? back.error ?? seal.error} />
            {handle && asking === null && (
              <Row>
                {r.outTime.out ? (
                  <Button $bench onPress={putBack}>
                    {r.open ? "Bag sealed: put back" : "Put back"}
                  </Button>
                ) : (
                  <Button $bench onPress={takeOut}>
                    Take out
                  </Button>
                )}
                {r.outTime.out && !r.open && (
                  <Button $bench $quiet onPress={() => setAsking("open")}>
                    Open the bag
                  </Button>
                )}
                {r.outTime.out && r.open && (
                  <Button $bench $quiet onPress={() => seal.mutate({ code, body: {} })}>
                    Seal
                  </Button>
                )}
              </Row>
            )}
            {asking === "open" && <OpenBag r={r} done={done} />}
            {asking === "use" && <UseLength r={r} done={done} />}
            {asking === "scrap" && <ScrapLength r={r} done={done} />}
            {asking === "offcut" && <KeepOffCut r={r} done={done} />}
            {asking === "flaw" && <AddFlaw r={r} done={done} />}
            {asking === null && r.length > 0 && <RollVerbs may={may} r={r} setAsking={setAsking} handle={handle} />}
            <FlawMap r={r} />
            {r.offCuts.length > 0 && <OffCutsOf r={r} />}
            <Rule />
            <Link to={`/thread/${r.code}`}>Every part this roll went into</Link>
            {r.caution && <Caution>{r.caution}</Caution>}
          </Stack>
        }
        built={<LifeRecorded r={r} />}
      />
    </>
  );
}

/** The roll from its present end, to scale, with what is left out of nests. */
function FlawMap({ r }: { r: Detail }) {
  if (r.length <= 0) return null;
  if (r.kind === "off-cut") return <Shape r={r} />;
  const x = (m: number) => `${(100 * m) / r.length}%`;
  return (
    <div>
      <Heading>Along the roll</Heading>
      <svg width="100%" height="34" role="img" aria-label={`${r.flaws.length} flaws and splices along the roll`}>
        <rect x="0.5" y="6" width="99.7%" height="18" fill="none" stroke="var(--ink)" />
        {r.flaws.map((f) => (
          <rect
            key={f.from}
            x={x(f.from)}
            y={f.kind === "splice" ? 0 : 6}
            width={`max(3px, ${x(f.to - f.from)})`}
            height={f.kind === "splice" ? 30 : 18}
            fill={f.kind === "splice" ? "var(--ink)" : "var(--brick)"}
          />
        ))}
      </svg>
      <small>
        {r.flaws.length === 0
          ? "no flaw known"
          : r.flaws
              .map(
                (f) => `${f.kind ?? "flaw"} at ${told.run(f.from)} to ${told.run(f.to)}${f.note ? `, ${f.note}` : ""}`,
              )
              .join("; ")}
        {r.flaws.length > 0 && ". Left out of every nest."}
      </small>
    </div>
  );
}

/** An off-cut to scale, with the rectangle of it that a nest uses. */
function Shape({ r }: { r: Detail }) {
  const outline = r.outline ?? [];
  const wide = Math.max(...outline.map((p) => p[0]!));
  const high = Math.max(...outline.map((p) => p[1]!));
  return (
    <div>
      <Heading>Its outline, along the roll from left to right</Heading>
      <svg
        viewBox={`-0.01 -0.01 ${wide + 0.02} ${high + 0.02}`}
        width="100%"
        style={{ maxHeight: 160 }}
        role="img"
        aria-label={`Off-cut of ${told.size(wide, 0)} by ${told.size(high, 0)}; a nest uses ${told.size(r.length, 0)} by ${told.size(r.width, 0)} of it`}
      >
        <polygon
          points={outline.map((p) => `${p[0]},${high - p[1]!}`).join(" ")}
          fill="var(--wash)"
          stroke="var(--ink)"
          strokeWidth="2"
          vectorEffect="non-scaling-stroke"
        />
      </svg>
      <small>
        {told.sides(wide, high, 0)}; a nest uses a rectangle of {told.sides(r.length, r.width, 0)} of it.
      </small>
    </div>
  );
}

function Ledger({ r }: { r: Detail }) {
  const [wrong, setWrong] = useState<Line | null>(null);
  const { may, person } = useSession();
  const mine = (e: Line) => person.role !== "technician" || e.personId === person.id;
  const can = (e: Line) => may("correct the ledger") && !e.stands && mine(e);
  return (
    <>
      <Table>
        <thead>
          <tr>
            <th>When</th>
            <th>What</th>
            <th className="n">{unitName(r.unit === "kg" ? "mass" : "run")}</th>
            <th>Who</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {r.ledger.toReversed().map((e) => (
            <tr key={e.id} className={wrong?.id === e.id ? "on" : undefined}>
              <td style={{ whiteSpace: "nowrap" }}>
                {date(e.at)} {clock(e.at)}
                {new Date(e.enteredAt).getTime() - new Date(e.at).getTime() > 120e3 && (
                  <>
                    <br />
                    <small>entered {moment(e.enteredAt)}</small>
                  </>
                )}
              </td>
              <td>
                <span style={e.takenBack ? { textDecoration: "line-through" } : undefined}>{called[e.kind]}</span>
                {e.takenBack && <small> taken back</small>} {e.note && <small>{said(e.note)}</small>}
                {e.until && <small> shelf life until {date(e.until)}</small>}
                {e.more ? <small> {spell(e.more)} more out-life</small> : null}
                {e.detail.dewPoint !== undefined && (
                  <small>
                    {" "}
                    roll {e.detail.coldest !== undefined && `${told.degrees(e.detail.coldest, 1)}`}, dew point{" "}
                    {told.degrees(e.detail.dewPoint, 1)} ({e.detail.source})
                  </small>
                )}
              </td>
              <td className="n">
                {e.length > 0
                  ? (e.kind === "received" ? "+" : "−") + figure(r.unit === "kg" ? "mass" : "run", e.length, 2)
                  : ""}
              </td>
              <td>{e.person}</td>
              <td>
                {can(e) && (
                  <Button
                    $quiet
                    $small
                    onPress={() => setWrong(e)}
                    aria-label={`Wrong? ${called[e.kind]} ${clock(e.at)}`}
                  >
                    Wrong?
                  </Button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </Table>
      {wrong && <Correct key={wrong.id} r={r} line={wrong} done={() => setWrong(null)} />}
    </>
  );
}

function Correct({ r, line, done }: { r: Detail; line: Line; done: () => void }) {
  const correct = useChange("/api/rolls/{code}/correct", done);
  return (
    <CorrectForm
      line={line}
      unit={r.unit}
      done={done}
      send={(body) => correct.mutate({ code: r.code, body })}
      busy={correct.isPending}
      error={correct.error}
    />
  );
}

/** What a roll’s life was spent on. */
function LifeRecorded({ r }: { r: Schemas["RollDetail"] }) {
  return (
    <Stack $gap={10}>
      <Heading>As recorded</Heading>
      <Big>{spell(r.outTime.spent)} of out-time</Big>
      <p>
        {spell(r.bench)} on the bench
        {r.warm > 0 && <>, {spell(r.warm)} in a freezer that was too warm</>}
        {r.before > 0 && (
          <>
            , {spell(r.before)} {r.kind === "off-cut" ? "on its roll" : "before it came"}
          </>
        )}
        .
        {r.ageing && (
          <>
            {" "}
            This stay of {spell(r.ageing.out)} aged it like {spell(r.ageing.equivalent)} at{" "}
            {told.degrees(r.ageing.reference)} by the room’s record
            {r.ageing.covered < 0.95 && `, of which ${Math.round(r.ageing.covered * 100)} % was logged`}.
          </>
        )}
      </p>
      <LifeLine
        life={r.life}
        fuse={r.outTime}
        warmths={r.warmths}
        label={`Life of ${r.code}: out-time over its time here`}
      />
      <Ledger r={r} />
    </Stack>
  );
}

/** What roll it is. */
function RollHead({ r }: { r: Schemas["RollDetail"] }) {
  return (
    <Row $between $top>
      <div>
        <Heading>
          {r.kind === "off-cut" ? (
            <>
              Off-cut of <Link to={`/freezer/${r.parent}`}>{r.parent}</Link>
            </>
          ) : (
            "Roll"
          )}
        </Heading>
        <Big>{r.code}</Big>
      </div>
      <a href={`/api/rolls/${r.code}/label.pdf`} target="_blank" rel="noreferrer">
        Label, PDF
      </a>
    </Row>
  );
}

/** What is left of tack and shelf life. */
function TackAndShelf({ r }: { r: Schemas["RollDetail"] }) {
  return (
    <p>
      {r.outTime.tackLeft !== undefined && (
        <>Tack life left: {r.outTime.tackLeft > 0 ? <b>{spell(r.outTime.tackLeft)}</b> : <b>none</b>}. </>
      )}
      {r.outTime.shelfEnd && (
        <>
          Shelf life in the freezer until <b>{date(r.outTime.shelfEnd)}</b>.{" "}
        </>
      )}
      {r.outSince && r.open && <>Its bag is open. </>}
    </p>
  );
}

/** What can be done to it now. */
function RollVerbs({
  may,
  r,
  setAsking,
  handle,
}: {
  may: (act: string) => boolean;
  r: Schemas["RollDetail"];
  setAsking: (value: null | "use" | "open" | "scrap" | "flaw" | "offcut" | ((prevState: Asking) => Asking)) => void;
  handle: boolean;
}) {
  return (
    <Row $gap={8}>
      {may("nest and cut") && r.open && (
        <Button $quiet onPress={() => setAsking("use")}>
          Cut by hand
        </Button>
      )}
      {may("nest and cut") && r.outTime.out && (
        <Button $quiet onPress={() => setAsking("offcut")}>
          Keep an off-cut
        </Button>
      )}
      {may("scrap material") && (
        <Button $quiet onPress={() => setAsking("scrap")}>
          Scrap
        </Button>
      )}
      {handle && (
        <Button $quiet onPress={() => setAsking("flaw")}>
          Mark a flaw or splice
        </Button>
      )}
    </Row>
  );
}

/** How warm its coldest place should be. */
function ColdestNow({ r, coldest }: { r: Schemas["RollDetail"]; coldest: number }) {
  return (
    <p>
      Its coldest place should be at <b>{told.degrees(coldest, 1)}</b> now
      {r.room?.dewPoint !== undefined && (
        <>
          ; dew point of the room <b>{told.degrees(r.room.dewPoint, 1)}</b>
        </>
      )}
      .
    </p>
  );
}

/** The off-cuts that were kept of it. */
function OffCutsOf({ r }: { r: Schemas["RollDetail"] }) {
  return (
    <p>
      Off-cuts:{" "}
      {r.offCuts.map((o) => (
        <span key={o.code}>
          <Link to={`/freezer/${o.code}`}>{o.code}</Link> <small>{told.sides(o.length, o.width, 0)}</small>{" "}
        </span>
      ))}
    </p>
  );
}

/** Its material, lot and place. */
function WhatItIs({ r }: { r: Schemas["RollDetail"] }) {
  return (
    <p>
      <b>{r.material}</b>
      {r.version > 1 && `, version ${r.version}`}, lot <Link to={`/freezer/batches/${r.batchCode}`}>{r.batch}</Link>
      <br />
      {told.amount(r.length, r.unit)} left, {told.size(r.width, 0)} wide. {r.place}.
    </p>
  );
}
