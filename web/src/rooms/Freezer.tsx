// Stage 1: the rolls with their fuses. Left what the plan asks of the freezer,
// right the rolls as they are.
import { Link, useNavigate, useParams } from "react-router";
import { useState, type FormEvent } from "react";
import styled from "styled-components";
import { api, useChange, type Schemas } from "../app/api";
import { asLabel, useKeys, useScan } from "../app/keys";
import { useTitle } from "../app/shell";
import { Fuse } from "../ui/Fuse";
import { clock, date, metres, mm, moment, spell } from "../ui/format";
import {
  Big,
  Button,
  Empty,
  Heading,
  Key,
  Loading,
  Mark,
  NumberField,
  Refusal,
  Row,
  Rule,
  Select,
  Stack,
  Table,
  TextField,
} from "../ui/parts";
import { Seam } from "../ui/Seam";

type Roll = Schemas["RollView"];

const RollRow = styled.li<{ $on: boolean }>`
  display: grid;
  grid-template-columns: 150px minmax(200px, 1fr) 124px;
  gap: 18px;
  padding: 11px 8px;
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

export function Freezer() {
  useTitle("Freezer");
  const { code } = useParams();
  const navigate = useNavigate();
  const rolls = api.useQuery("get", "/api/rolls", undefined, { refetchInterval: 20_000 });
  const out = useChange("/api/rolls/{code}/out");
  const back = useChange("/api/rolls/{code}/in");
  const [receiving, setReceiving] = useState(false);
  const chosen = rolls.data?.find((r) => r.code === code);
  const move = (r: Roll) => (r.fuse.out ? back : out).mutate({ code: r.code, body: {} });
  useKeys({
    t: { says: "take out the chosen roll", run: () => chosen && move(chosen), off: !chosen || chosen.fuse.out },
    u: { says: "put back the chosen roll", run: () => chosen && move(chosen), off: !chosen?.fuse.out },
    a: { says: "receive a roll", run: () => setReceiving(true) },
    Escape: {
      says: "back to the plan",
      run: () => (receiving ? setReceiving(false) : void navigate("/freezer")),
      off: !chosen && !receiving,
    },
  });
  useScan((id) => {
    const hit = rolls.data?.find((r) => r.code === asLabel(id));
    if (!hit) return false;
    void navigate(`/freezer/${hit.code}`);
    return true;
  });
  if (!rolls.data) return <Loading error={rolls.error} />;
  const sorted = [...rolls.data].sort((a, b) => Number(b.fuse.out) - Number(a.fuse.out) || a.fuse.left - b.fuse.left);
  const differences = sorted
    .filter((r) => r.fuse.out && r.neededFor.length === 0)
    .map((r) => ({ says: `${r.code} out, not needed`, tone: "attend" as const }));
  return (
    <Seam
      left="minmax(0, 0.62fr)"
      names={["What the plan asks", "Rolls as they are"]}
      planned={
        receiving ? (
          <Receive done={() => setReceiving(false)} />
        ) : chosen ? (
          <OneRoll code={chosen.code} close={() => void navigate("/freezer")} />
        ) : (
          <Needs rolls={rolls.data} receive={() => setReceiving(true)} />
        )
      }
      differences={differences}
      built={
        <>
          <Row $between>
            <div>
              <Heading>As it is now</Heading>
              <Big>
                {rolls.data.filter((r) => r.fuse.out).length} out, {rolls.data.filter((r) => !r.fuse.out).length} frozen
              </Big>
            </div>
            <span>
              Scan a roll, then <Key>T</Key> takes it out, <Key>U</Key> puts it back
            </span>
          </Row>
          <Refusal error={out.error ?? back.error} />
          {rolls.data.length === 0 && (
            <Empty>No roll here yet. Receive the first one with its batch and length from the label.</Empty>
          )}
          <List aria-label="Rolls">
            {sorted.map((r) => (
              <RollRow key={r.code} $on={r.code === code}>
                <a
                  href={`/freezer/${r.code}`}
                  onClick={(e) => {
                    e.preventDefault();
                    void navigate(`/freezer/${r.code}`);
                  }}
                >
                  <b>{r.code}</b>
                  {r.material}
                  <br />
                  <small>
                    {metres(r.length)} m left · {mm(r.width, 0)} mm
                  </small>
                </a>
                <div>
                  <Fuse fuse={r.fuse} />
                  {r.refusal ? (
                    <Mark tone="stop">Not to be used: {r.refusal}</Mark>
                  ) : r.outSince ? (
                    <Mark tone="attend">Out since {moment(r.outSince)}</Mark>
                  ) : (
                    <small>{r.place}</small>
                  )}
                </div>
                <Button
                  $quiet={r.fuse.out ? undefined : true}
                  onPress={() => move(r)}
                  isDisabled={out.isPending || back.isPending}
                  aria-label={`${r.fuse.out ? "Put back" : "Take out"} ${r.code}`}
                >
                  {r.fuse.out ? "Put back" : "Take out"}
                </Button>
              </RollRow>
            ))}
          </List>
        </>
      }
    />
  );
}

/** What open builds need, by material, and which roll serves first. */
function Needs({ rolls, receive }: { rolls: Roll[]; receive: () => void }) {
  const queue = api.useQuery("get", "/api/cut");
  const soonest = [...rolls].sort((a, b) => a.fuse.life - a.fuse.spent - (b.fuse.life - b.fuse.spent))[0];
  return (
    <Stack $gap={14}>
      <div>
        <Heading>What the plan asks</Heading>
        <Big>{queue.data?.length ? "To take out for the cut" : "Nothing waits to be cut"}</Big>
      </div>
      {queue.data?.map((d) => {
        const best = d.rolls.find((r) => !r.passed);
        return (
          <div key={d.material}>
            <b>{d.material}</b>: {d.builds.map((b) => `${b.number} · ${b.serial}`).join(", ")},{" "}
            {d.builds.reduce((n, b) => n + b.plies, 0)} plies, {d.builds.reduce((n, b) => n + b.area, 0).toFixed(2)} m²
            <br />
            {best ? (
              <Mark tone="met">
                take {best.code}, {metres(best.length)} m left
              </Mark>
            ) : (
              <Mark tone="stop">no roll fits</Mark>
            )}
          </div>
        );
      })}
      {queue.data?.length === 0 && (
        <p>A build that waits for its plies shows here with the roll to take. Builds start on the page of a part.</p>
      )}
      <Rule />
      {soonest && (
        <p>
          Least life left: <b>{soonest.code}</b>, {soonest.material}, {spell(Math.max(0, soonest.fuse.life - soonest.fuse.spent))}{" "}
          of out-time.
        </p>
      )}
      <div>
        <Button $quiet onPress={receive}>
          Receive a roll
        </Button>
      </div>
      <p style={{ color: "var(--g1)" }}>
        A sealed roll stays sealed until all of it is above the dew point of the room, or water condenses on the ply. Lives are
        those of the supplier’s data sheet as entered.
      </p>
    </Stack>
  );
}

const said: Record<string, string> = { received: "Received", out: "Taken out", in: "Put back", used: "Cut" };

function OneRoll({ code, close }: { code: string; close: () => void }) {
  const roll = api.useQuery("get", "/api/rolls/{code}", { params: { path: { code } } });
  if (!roll.data) return <Loading error={roll.error} />;
  const r = roll.data;
  return (
    <Stack $gap={10}>
      <Row $between>
        <div>
          <Heading>Ledger of roll</Heading>
          <Big>{r.code}</Big>
        </div>
        <Button $quiet onPress={close}>
          Close
        </Button>
      </Row>
      <p>
        {r.material}, batch <b>{r.batch}</b>. {r.place}.<br />
        {r.fuse.shelfEnd && <>Shelf life in the freezer until {date(r.fuse.shelfEnd)}. </>}
        {r.fuse.tackLeft !== undefined && <>Tack life left: {r.fuse.tackLeft > 0 ? spell(r.fuse.tackLeft) : "none"}. </>}
        {r.flaws.map((f) => (
          <span key={f.from}>
            Flaw at {metres(f.from)} to {metres(f.to)} m, left out of every nest.
          </span>
        ))}
      </p>
      <Table>
        <thead>
          <tr>
            <th>When</th>
            <th>What</th>
            <th className="n">m</th>
            <th>Who</th>
          </tr>
        </thead>
        <tbody>
          {r.ledger.toReversed().map((e, i) => (
            <tr key={i}>
              <td>
                {date(e.at)} {clock(e.at)}
              </td>
              <td>
                {said[e.kind]} {e.note && <small>{e.note}</small>}
              </td>
              <td className="n">{e.length > 0 ? (e.kind === "used" ? "−" : "+") + metres(e.length) : ""}</td>
              <td>{e.person}</td>
            </tr>
          ))}
        </tbody>
      </Table>
      <Link to={`/thread/${r.code}`}>Every part this roll went into</Link>
    </Stack>
  );
}

function Receive({ done }: { done: () => void }) {
  const materials = api.useQuery("get", "/api/materials");
  const receive = useChange("/api/rolls", done);
  const [form, setForm] = useState({ materialId: 0, batch: "", length: NaN, place: "", shelfEnd: "" });
  const set =
    <K extends keyof typeof form>(key: K) =>
    (v: (typeof form)[K]) =>
      setForm({ ...form, [key]: v });
  const submit = (e: FormEvent) => {
    e.preventDefault();
    const { shelfEnd, ...rest } = form;
    receive.mutate({
      body: {
        ...rest,
        materialId: form.materialId || (materials.data?.[0]?.id ?? 0),
        ...(shelfEnd ? { shelfEnd: new Date(shelfEnd).toISOString() } : {}),
      },
    });
  };
  return (
    <form onSubmit={submit}>
      <Stack $gap={12}>
        <Big>Receive a roll, frozen</Big>
        <label>
          Material
          <br />
          <Select value={form.materialId || materials.data?.[0]?.id} onChange={(e) => set("materialId")(Number(e.target.value))}>
            {materials.data?.map((m) => (
              <option key={m.id} value={m.id}>
                {m.name}, {mm(m.width, 0)} mm
              </option>
            ))}
          </Select>
        </label>
        <TextField label="Batch, as on the label" value={form.batch} onChange={set("batch")} isRequired />
        <NumberField label="Length, m" value={form.length} onChange={set("length")} min={0.01} />
        <TextField label="Place in the freezer" value={form.place} onChange={set("place")} />
        <TextField label="Shelf life until" type="date" value={form.shelfEnd} onChange={set("shelfEnd")} />
        <Refusal error={receive.error} />
        <Row>
          <Button type="submit" isDisabled={receive.isPending || form.batch === "" || !(form.length > 0)}>
            Receive
          </Button>
          <Button $quiet onPress={done}>
            Leave it
          </Button>
        </Row>
      </Stack>
    </form>
  );
}
