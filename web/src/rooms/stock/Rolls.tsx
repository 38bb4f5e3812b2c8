// The rolls with their fuses. Left what the plan asks of the freezer
// and what is in somebody's hands, right the rolls as they are.
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import styled from "styled-components";
import { api, useChange } from "../../app/api";
import type { Schemas } from "../../contract/types";
import { asLabel, useKeys, useScan } from "../../app/keys";
import { useSay } from "../../ui/say";
import { Offer } from "../../app/Offer";
import { useSession } from "../../app/session";
import { useTitle } from "../../app/shell";
import { Fuse } from "../../ui/Fuse";
import { date, moment, spell, told } from "../../ui/format";
import {
  Big,
  Button,
  Empty,
  Heading,
  Key,
  Loading,
  Mark,
  Refusal,
  Row,
  Rule,
  Select,
  Stack,
  TextField,
} from "../../ui/parts";
import { Seam, type Difference } from "../../ui/Seam";
import { FreezerTabs } from "./tabs";

type Roll = Schemas["RollView"];

const RollRow = styled.li<{ $on: boolean }>`
  display: grid;
  grid-template-columns: 64px 158px minmax(180px, 1fr) 118px;
  gap: 14px;
  padding: 9px 8px 9px 0;
  align-items: center;
  border-bottom: 1px solid var(--g4);
  ${(p) => p.$on && "background: var(--wash);"}
  > a {
    color: inherit;
    text-decoration: none;
    line-height: 1.25;
  }
  > a b {
    font-size: 20px;
    display: block;
    text-decoration: underline;
    text-underline-offset: 3px;
  }
  > label {
    min-height: 64px;
    display: grid;
    place-items: center;
    cursor: pointer;
  }
  input {
    width: 28px;
    height: 28px;
    accent-color: var(--blue);
  }
  button {
    min-height: 64px;
    padding: 0 10px;
  }
`;

const List = styled.ul`
  list-style: none;
  margin: 8px 0 0;
  padding: 0;
  border-top: 1px solid var(--ink);
`;

/** How a roll that is out and sealed is thawing, in words. */
export function Thaw({ r }: { r: Roll }) {
  if (!r.outSince || r.open) return null;
  const left = (at: string) => (new Date(at).getTime() - Date.now()) / 1000;
  if (r.dewAt && left(r.dewAt) > 0)
    return (
      <Mark tone="stop">
        sealed: keep shut until {moment(r.dewAt)}, {spell(left(r.dewAt))} more
      </Mark>
    );
  if (r.roomAt && left(r.roomAt) > 0)
    return (
      <Mark tone="attend">
        sealed, past the dew point; warm at {moment(r.roomAt)}, in {spell(left(r.roomAt))}
      </Mark>
    );
  return r.dewAt ? (
    <Mark tone="met">sealed, thawed: may be opened</Mark>
  ) : (
    <Mark tone="attend">sealed; the room is not measured</Mark>
  );
}

export function Rolls() {
  useTitle("Freezer");
  const navigate = useNavigate();
  const say = useSay();
  const { may } = useSession();
  const [find, setFind] = useState("");
  const [state, setState] = useState<"hand" | "out" | "finished">("hand");
  const [page, setPage] = useState(0);
  const [hands, setHands] = useState<Roll[]>([]);
  const [late, setLate] = useState(false);
  const size = 40;
  const rolls = api.useQuery(
    "get",
    "/api/rolls",
    { params: { query: { find, state, offset: page * size, limit: size } } },
    { refetchInterval: 20_000, placeholderData: (before) => before },
  );
  const out = useChange("/api/rolls/out", () => setHands([]));
  const back = useChange("/api/rolls/in", () => setHands([]));
  const shown = rolls.data?.rolls ?? [];
  const held = hands.map((h) => shown.find((r) => r.code === h.code) ?? h);
  const frozen = held.filter((r) => !r.outTime.out);
  const gone = held.filter((r) => r.outTime.out);
  const toggle = (r: Roll) =>
    setHands(hands.some((h) => h.code === r.code) ? hands.filter((h) => h.code !== r.code) : [...hands, r]);
  const codes = (of: Roll[]) => of.map((r) => r.code);
  const takeOut = (of: Roll[]) => out.mutate({ body: { rolls: codes(of) } });
  const putBack = (of: Roll[]) =>
    back.mutate({ body: { rolls: codes(of), sealed: of.every((r) => !r.open) ? undefined : true } });
  const handle = may("handle material");
  useKeys({
    t: { label: "take out what is in your hands", run: () => takeOut(frozen), off: frozen.length === 0 || !handle },
    u: { label: "put back what is in your hands", run: () => putBack(gone), off: gone.length === 0 || !handle },
    a: { label: "receive a delivery", run: () => void navigate("/freezer/receive"), off: !may("receive material") },
    Escape: { label: "empty your hands", run: () => setHands([]), off: hands.length === 0 },
  });
  useScan((id) => {
    if (!id.startsWith("R")) return false;
    const seen = asLabel(id);
    if (hands.some((h) => h.code === seen)) return (say(`${seen} is in your hands already`), true);
    const hit = shown.find((r) => r.code === seen);
    if (!hit) return false;
    setHands([...hands, hit]);
    return true;
  });
  if (!rolls.data) return <Loading error={rolls.error} />;
  const differences: Difference[] = shown
    .filter((r) => r.outTime.out && r.kind === "roll" && r.neededFor.length === 0)
    .map((r) => ({ label: `${r.code} out, not needed`, tone: "attend" as const }));
  const pages = Math.ceil(rolls.data.total / size);
  return (
    <>
      <FreezerTabs />
      <Seam
        left="minmax(0, 0.6fr)"
        names={["Needed by the plan", "Rolls in stock"]}
        planned={
          hands.length > 0 ? (
            <Hands
              frozen={frozen}
              gone={gone}
              drop={toggle}
              clear={() => setHands([])}
              takeOut={out}
              putBack={back}
              setLate={setLate}
              late={late}
            />
          ) : (
            <Asked />
          )
        }
        differences={differences}
        built={
          <>
            <Row $between $top>
              <div>
                <Heading>As it is now</Heading>
                <Big>
                  {rolls.data.out} out, {rolls.data.frozen} frozen
                </Big>
              </div>
              <RollFilter find={find} setFind={setFind} setPage={setPage} state={state} setState={setState} />
            </Row>
            <Refusal error={out.error ?? back.error} />
            {shown.length === 0 && <NoRolls find={find} state={state} />}
            <List aria-label="Rolls">
              {shown.map((r) => (
                <RollRow key={r.code} $on={hands.some((h) => h.code === r.code)}>
                  <label>
                    <input
                      type="checkbox"
                      aria-label={`${r.code} in my hands`}
                      checked={hands.some((h) => h.code === r.code)}
                      onChange={() => toggle(r)}
                    />
                  </label>
                  <Link to={`/freezer/${r.code}`}>
                    <b>{r.code}</b>
                    {r.material}
                    <br />
                    <small>
                      {r.kind === "off-cut" && "off-cut, "}
                      {told.amount(r.length, r.unit)} · {told.size(r.width, 0)}
                    </small>
                  </Link>
                  <RollClock r={r} />
                  {r.length > 0 && handle && (
                    <Button
                      $quiet={r.outTime.out ? undefined : true}
                      onPress={() => (r.outTime.out ? putBack([r]) : takeOut([r]))}
                      isDisabled={out.isPending || back.isPending}
                      aria-label={`${r.outTime.out ? (r.open ? "Seal and put back" : "Put back") : "Take out"} ${r.code}`}
                    >
                      {r.outTime.out ? (r.open ? "Seal, put back" : "Put back") : "Take out"}
                    </Button>
                  )}
                </RollRow>
              ))}
            </List>
            {pages > 1 && (
              <Row style={{ marginTop: 12 }}>
                <Button $quiet isDisabled={page === 0} onPress={() => setPage(page - 1)}>
                  Before
                </Button>
                <span>
                  {page * size + 1} to {Math.min(rolls.data.total, (page + 1) * size)} of {rolls.data.total}
                </span>
                <Button $quiet isDisabled={page + 1 >= pages} onPress={() => setPage(page + 1)}>
                  Next
                </Button>
              </Row>
            )}
          </>
        }
      />
    </>
  );
}

type Move = ReturnType<typeof useChange<"/api/rolls/out">>;

/** What was scanned or ticked: one press for all of it. */
function Hands({
  frozen,
  gone,
  drop,
  clear,
  takeOut,
  putBack,
  late,
  setLate,
}: {
  frozen: Roll[];
  gone: Roll[];
  drop: (r: Roll) => void;
  clear: () => void;
  takeOut: Move;
  putBack: Move;
  late: boolean;
  setLate: (late: boolean) => void;
}) {
  const freezers = api.useQuery("get", "/api/freezers");
  const handle = useSession().may("handle material");
  const [at, setAt] = useState("");
  const [note, setNote] = useState("");
  const [freezer, setFreezer] = useState(0);
  const [place, setPlace] = useState("");
  const when = { ...(late && at ? { at: new Date(at).toISOString() } : {}), ...(note ? { note } : {}) };
  const places = freezers.data?.find((f) => f.id === freezer)?.places ?? [];
  return (
    <Stack $gap={12}>
      <HandsHead frozen={frozen} gone={gone} clear={clear} />
      <ul style={{ listStyle: "none", margin: 0, padding: 0 }}>
        {[...frozen, ...gone].map((r) => (
          <HeldRoll key={r.code} r={r} drop={drop} />
        ))}
      </ul>
      {frozen.length + gone.length > 0 && <Offer act="handle material">{null}</Offer>}
      {handle && frozen.length > 0 && (
        <Button $bench onPress={() => takeOut.mutate({ body: { rolls: frozen.map((r) => r.code), ...when } })}>
          Take out {frozen.length === 1 ? frozen[0]!.code : `${frozen.length} rolls`}
        </Button>
      )}
      {handle && gone.length > 0 && (
        <>
          <Row $gap={10}>
            <FreezerChoice freezer={freezer} setFreezer={setFreezer} freezers={freezers.data ?? []} />
            {places.length > 0 && <PlaceChoice place={place} setPlace={setPlace} places={places} />}
          </Row>
          <Button
            $bench
            onPress={() =>
              putBack.mutate({
                body: {
                  rolls: gone.map((r) => r.code),
                  ...when,
                  ...(freezer ? { freezerId: freezer } : {}),
                  ...(place ? { place } : {}),
                  ...(gone.some((r) => r.open) ? { sealed: true } : {}),
                },
              })
            }
          >
            {gone.some((r) => r.open) ? "Bags sealed: put back" : "Put back"}{" "}
            {gone.length === 1 ? gone[0]!.code : `${gone.length} rolls`}
          </Button>
        </>
      )}
      <label>
        <input type="checkbox" checked={late} onChange={(e) => setLate(e.target.checked)} /> It happened earlier
      </label>
      {late && <TextField label="When" type="datetime-local" value={at} onChange={setAt} />}
      <TextField label="Note" value={note} onChange={setNote} />
      <p>
        <Key>T</Key> takes out, <Key>U</Key> puts back, <Key>Esc</Key> empties your hands. Scan more rolls to add them.
      </p>
    </Stack>
  );
}

/** What open builds need, which roll serves first, and what runs short. */
function Asked() {
  const queue = api.useQuery("get", "/api/cut");
  const short = api.useQuery("get", "/api/scarcity");
  const room = api.useQuery("get", "/api/room", undefined, { refetchInterval: 20_000 });
  const { may } = useSession();
  const air = room.data?.room;
  return (
    <Stack $gap={14}>
      <div>
        <Heading>Needed by the plan</Heading>
        <Big>{queue.data?.length ? "To take out for the cut" : "Nothing waits to be cut"}</Big>
      </div>
      {queue.data?.map((d) => {
        const best = d.rolls.find((r) => !r.passed);
        const scarce = short.data?.find((s) => s.family === d.materialId);
        return (
          <div key={d.material}>
            <b>{d.material}</b>: {d.builds.map((b) => `${b.number} · ${b.serial}`).join(", ")}, {d.plies} plies,{" "}
            {told.area(d.area)}
            <br />
            {best ? (
              <Mark tone="met">
                take {best.code}, {best.place}, {told.run(best.length)} left
              </Mark>
            ) : (
              <Mark tone="stop">no roll fits</Mark>
            )}{" "}
            <Link to={`/freezer/which?build=${d.builds[0]!.code}`}>why</Link>
            {scarce?.short.slice(0, 1).map((s) => (
              <div key={s.build}>
                <Mark tone="stop">
                  runs short on {date(s.by)}: {s.number} · {s.serial} lacks {told.area(s.short, 1)}
                </Mark>
              </div>
            ))}
            {scarce && scarce.short.length === 0 && (
              <div>
                <small>
                  {told.area(scarce.onHand, 0)} on hand, open builds need {told.area(scarce.roll, 1)} of roll
                  {scarce.waiting > 0 && `; ${told.area(scarce.waiting, 0)} more wait for acceptance`}
                </small>
              </div>
            )}
          </div>
        );
      })}
      {queue.data?.length === 0 && (
        <p>A build that waits for its plies shows here with the roll to take. Builds start on the page of a part.</p>
      )}
      <Rule />
      <RoomAir air={air} />
      {may("receive material") && (
        <div>
          <Link to="/freezer/receive">
            <b>Receive a delivery</b>
          </Link>{" "}
          <Key>A</Key>
        </div>
      )}
      <p style={{ color: "var(--g1)" }}>
        Scan or tick rolls to take several out at once. A sealed roll stays sealed until all of it is above the dew
        point of the room, or water condenses on the ply. Lives are those of the supplier’s data sheet as entered.
      </p>
    </Stack>
  );
}

/** The air of the room as it is measured. */
function RoomAir({ air }: { air: undefined | Schemas["RoomConditions"] }) {
  return (
    <p>
      {air?.temperature !== undefined ? (
        <>
          Room <b>{told.degrees(air.temperature, 1)}</b>
          {air.humidity !== undefined && (
            <>
              , <b>{(air.humidity * 100).toFixed(0)} %</b>
            </>
          )}
          {air.dewPoint !== undefined && (
            <>
              , dew point <b>{told.degrees(air.dewPoint, 1)}</b>
            </>
          )}{" "}
          <small>{moment(air.at)}</small>
        </>
      ) : (
        <Mark tone="attend">The room is not measured now: read a gauge before a bag is opened</Mark>
      )}
    </p>
  );
}

/** A roll in the hands of whoever scans. */
function HeldRoll({ r, drop }: { r: Schemas["RollView"]; drop: (r: Schemas["RollView"]) => void }) {
  return (
    <li style={{ padding: "6px 0", borderBottom: "1px solid var(--g4)" }}>
      <Row $between>
        <span>
          <b>{r.code}</b> {r.material} <small>{r.outTime.out ? "out" : r.place}</small>
        </span>
        <Button $quiet onPress={() => drop(r)} aria-label={`Leave ${r.code}`}>
          Leave
        </Button>
      </Row>
      {r.refusal && <Mark tone="stop">{r.refusal}</Mark>}
    </li>
  );
}

/** How many rolls are in the hands. */
function HandsHead({
  frozen,
  gone,
  clear,
}: {
  frozen: Schemas["RollView"][];
  gone: Schemas["RollView"][];
  clear: () => void;
}) {
  return (
    <Row $between>
      <div>
        <Heading>In your hands</Heading>
        <Big>
          {frozen.length + gone.length} {frozen.length + gone.length === 1 ? "roll" : "rolls"}
        </Big>
      </div>
      <Button $quiet onPress={clear}>
        Empty my hands
      </Button>
    </Row>
  );
}

/** What is left of a roll, and why it is not to be used. */
function RollClock({ r }: { r: Schemas["RollView"] }) {
  return (
    <div>
      <Fuse fuse={r.outTime} />
      {r.refusal && (
        <div>
          <Mark tone="stop">Not to be used: {r.refusal}</Mark>
        </div>
      )}
      {r.outSince ? (
        <Row $gap={10}>
          <Mark tone="attend">
            out since {moment(r.outSince)}
            {r.open && ", bag open"}
          </Mark>
          <Thaw r={r} />
        </Row>
      ) : (
        <small>
          {r.place || "no place"} · lot {r.batch}
        </small>
      )}
    </div>
  );
}

/** Finds rolls in the list. */
function RollFilter({
  find,
  setFind,
  setPage,
  state,
  setState,
}: {
  find: string;
  setFind: (value: string | ((prevState: string) => string)) => void;
  setPage: (value: number | ((prevState: number) => number)) => void;
  state: "finished" | "hand" | "out";
  setState: (
    value: "finished" | "hand" | "out" | ((prevState: "finished" | "hand" | "out") => "finished" | "hand" | "out"),
  ) => void;
}) {
  return (
    <Row $gap={10} style={{ alignItems: "flex-end" }}>
      <div style={{ width: 210 }}>
        <TextField
          label="Find id, lot, material, place"
          value={find}
          onChange={(v) => {
            setFind(v);
            setPage(0);
          }}
        />
      </div>
      <Select
        aria-label="Which rolls"
        value={state}
        onChange={(e) => {
          setState(e.target.value as typeof state);
          setPage(0);
        }}
      >
        <option value="hand">on hand</option>
        <option value="out">out now</option>
        <option value="finished">used up</option>
      </Select>
    </Row>
  );
}

/** Why no roll is listed. */
function NoRolls({ find, state }: { find: string; state: "finished" | "hand" | "out" }) {
  return (
    <Empty style={{ marginTop: 12 }}>
      {find || state !== "hand" ? (
        "No match."
      ) : (
        <>
          No roll here yet. <Link to="/freezer/receive">Receive the first delivery</Link> with its lot and length from
          the label, or bring in a <Link to="/freezer/list">stock list</Link>.
        </>
      )}
    </Empty>
  );
}

/** Where a roll is put. */
function PlaceChoice({
  place,
  setPlace,
  places,
}: {
  place: string;
  setPlace: (value: string | ((prevState: string) => string)) => void;
  places: string[];
}) {
  return (
    <Select aria-label="Place" value={place} onChange={(e) => setPlace(e.target.value)}>
      <option value="">same place</option>
      {places.map((p) => (
        <option key={p}>{p}</option>
      ))}
    </Select>
  );
}

/** Into which freezer rolls are put. */
function FreezerChoice({
  freezer,
  setFreezer,
  freezers,
}: {
  freezer: number;
  setFreezer: (id: number) => void;
  freezers: Schemas["FreezerView"][];
}) {
  return (
    <Select aria-label="Into which freezer" value={freezer} onChange={(e) => setFreezer(Number(e.target.value))}>
      <option value={0}>where each belongs</option>
      {freezers.map((f) => (
        <option key={f.id} value={f.id}>
          {f.name}
        </option>
      ))}
    </Select>
  );
}
