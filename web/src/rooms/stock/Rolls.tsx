// The rolls with their fuses. Left what the plan asks of the freezer
// and what is in somebody's hands, right the rolls as they are.
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import styled from "styled-components";
import { api, useChange } from "../../app/api";
import type { Schemas } from "../../contract/types";
import { asLabel, useKeys, useScan } from "../../app/keys";
import { useSay } from "../../ui/say";
import { useSession } from "../../app/session";
import { useTitle } from "../../app/shell";
import { told } from "../../ui/format";
import { Big, Button, Empty, Heading, Loading, Refusal, Row, Select, TextField } from "../../ui/parts";
import { Seam, type Difference } from "../../ui/Seam";
import { FreezerTabs } from "./tabs";
import { RollClock } from "./RollClock";
import { Hands } from "./RollsInHand";
import { Asked } from "./RollDemand";

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
