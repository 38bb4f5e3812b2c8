// A load on a zone: what it does to each ply, which fails first, and how far the
// zone may warp when angles are off. Cases that are needed again stand in the
// master.
import { useState, type FormEvent } from "react";
import type { Schemas } from "../../contract/types";
import { told } from "../../ui/format";
import { Button, Caution, Heading, NumberField, Row, SelectField, Stack, Table, TextField } from "../../ui/parts";
import type { Master } from "../master/edits";
import type { Asked, Reply } from "../master/useMaster";
import { zoneSays } from "./Analysis";

type Load = Schemas["Load"];

const parts = ["Nx, N/mm", "Ny, N/mm", "Nxy, N/mm", "Mx, N", "My, N", "Mxy, N", "ΔT, K"] as const;

/** What a load's fields show, and the load that they make. */
const shownAs = (l: Load) => [...l.n.map((v) => v / 1e3), ...l.m, l.deltaT];
const made = (name: string, v: number[]): Load => ({
  name,
  n: [v[0]! * 1e3, v[1]! * 1e3, v[2]! * 1e3],
  m: [v[3]!, v[4]!, v[5]!],
  deltaT: v[6]!,
});

export function LoadCase({
  doc,
  change,
  zone,
  name,
  reply,
  asked,
  ask,
}: {
  doc: Master;
  /** Missing: the master cannot be written. */
  change?: (m: Master) => void;
  zone?: Schemas["ZoneView"];
  name: string;
  reply: Reply;
  asked: Asked;
  ask: (a: Asked) => void;
}) {
  const [values, setValues] = useState([100, 0, 0, 0, 0, 0, 0]);
  const [called, setCalled] = useState("");
  const [off, setOff] = useState(2);
  const bad = values.some(Number.isNaN);
  const submit = (e: FormEvent) => {
    e.preventDefault();
    if (bad) return;
    ask({ ...asked, load: made("asked", values) });
  };
  const kept = doc.loads ?? [];
  const choose = (called: string) => {
    const l = kept.find((x) => x.name === called);
    setCalled(called);
    if (!l) return;
    setValues(shownAs(l));
    ask({ ...asked, load: l });
  };
  const others = kept.filter((l) => l.name !== called.trim());
  const first = reply.load?.find((p) => p.first);
  return (
    <Stack $gap={8}>
      <Heading>
        Load on {name}
        {zone ? `, ${zoneSays(zone)}` : ""}
      </Heading>
      {(kept.length > 0 || change) && (
        <KeptLoads
          kept={kept}
          called={called}
          choose={choose}
          change={change}
          setCalled={setCalled}
          bad={bad}
          doc={doc}
          others={others}
          values={values}
        />
      )}
      <form onSubmit={submit}>
        <LoadFields values={values} setValues={setValues} bad={bad} />
      </form>
      {reply.load && (
        <>
          <FirstToFail first={first} />
          <PlyStresses load={reply.load} />
          <Caution>
            A check for the shop, not a certification: it knows no impact, holes, free edges, moisture or fatigue. The
            engineer of record decides.
          </Caution>
        </>
      )}
      <KnockDown off={off} setOff={setOff} ask={ask} asked={asked} reply={reply} name={name} />
    </Stack>
  );
}

/** The stresses of each ply. */
function PlyStresses({ load }: { load: Schemas["PlyStressView"][] }) {
  return (
    <Table>
      <thead>
        <tr>
          <th>Ply</th>
          <th className="n">along, MPa</th>
          <th className="n">across, MPa</th>
          <th className="n">shear, MPa</th>
          <th className="n">max. stress</th>
          <th>governed by</th>
          <th className="n">Tsai–Wu</th>
          <th className="n">times the load</th>
        </tr>
      </thead>
      <tbody>
        {load.map((p) => (
          <tr key={p.key} className={p.first ? "on" : undefined}>
            <td>{p.ply}</td>
            {p.stress.map((s, k) => (
              <td key={k} className="n">
                {(Math.round(s / 1e5) / 10 + 0).toFixed(1)}
              </td>
            ))}
            <td className="n">{p.maxStress?.toFixed(3)}</td>
            <td>{p.mode}</td>
            <td className="n">{p.tsaiWu?.toFixed(3)}</td>
            <td className="n">{p.reserve?.toFixed(2) ?? ""}</td>
          </tr>
        ))}
      </tbody>
    </Table>
  );
}

/** Which ply would fail first. */
function FirstToFail({ first }: { first: undefined | Schemas["PlyStressView"] }) {
  return (
    <p role="status">
      {first ? (
        <>
          Ply {first.ply} would fail first
          {first.reserve ? `, at ${first.reserve.toFixed(2)} times this load` : ""}: Tsai–Wu {first.tsaiWu?.toFixed(3)},
          maximum stress {first.maxStress?.toFixed(3)} ({first.mode}).
        </>
      ) : (
        "The strength of these materials is not entered: stresses only."
      )}
    </p>
  );
}

/** The loads, a field each. */
function LoadFields({
  values,
  setValues,
  bad,
}: {
  values: number[];
  setValues: (value: number[] | ((prevState: number[]) => number[])) => void;
  bad: boolean;
}) {
  return (
    <Row $gap={10} style={{ alignItems: "flex-end" }}>
      {parts.map((p, i) => (
        <div key={p} style={{ width: 88 }}>
          <NumberField
            label={p}
            value={values[i]!}
            onChange={(v) => setValues(values.map((x, k) => (k === i ? v : x)))}
          />
        </div>
      ))}
      <Button type="submit" $quiet why={bad ? "Enter every load." : ""}>
        Calculate
      </Button>
    </Row>
  );
}

/** What is left of the strengths. */
function KnockDown({
  off,
  setOff,
  ask,
  asked,
  reply,
  name,
}: {
  off: number;
  setOff: (value: number | ((prevState: number) => number)) => void;
  ask: (a: Asked) => void;
  asked: Asked;
  reply: Schemas["Reply"];
  name: string;
}) {
  return (
    <Row $gap={10} style={{ alignItems: "flex-end", marginTop: 10 }}>
      <div style={{ width: 150 }}>
        <NumberField label="All angles within ±, °" value={off} onChange={setOff} min={0} max={20} />
      </div>
      <Button $quiet why={off > 0 ? "" : "Enter an angle."} onPress={() => ask({ ...asked, off })}>
        Warp tolerance
      </Button>
      {reply.range && (
        <span role="status">
          Bow of {name} over {told.run(reply.analysis?.span ?? 1)}: likely {told.size(reply.range.low, 2)} to{" "}
          {told.size(reply.range.high, 2)}, in the middle {told.size(reply.range.middle, 2)}; the worst of 200 layups{" "}
          {told.size(reply.range.worst, 2)}.
        </span>
      )}
    </Row>
  );
}

/** The load cases of the master. */
function KeptLoads({
  kept,
  called,
  choose,
  change,
  setCalled,
  bad,
  doc,
  others,
  values,
}: {
  kept: Schemas["Load"][];
  called: string;
  choose: (called: string) => void;
  change: undefined | ((m: Schemas["Document"]) => void);
  setCalled: (value: string | ((prevState: string) => string)) => void;
  bad: boolean;
  doc: Schemas["Document"];
  others: Schemas["Load"][];
  values: number[];
}) {
  return (
    <Row $gap={10} style={{ alignItems: "flex-end" }}>
      <SelectField
        label="Load cases of the master"
        value={kept.some((l) => l.name === called) ? called : ""}
        onChange={(e) => choose(e.target.value)}
      >
        <option value="">{kept.length > 0 ? "choose one" : "none yet"}</option>
        {kept.map((l) => (
          <option key={l.name}>{l.name}</option>
        ))}
      </SelectField>
      {change && (
        <>
          <div style={{ width: 200 }}>
            <TextField label="Name of the case" value={called} onChange={setCalled} />
          </div>
          <Button
            $quiet
            why={bad ? "Enter every load." : called.trim() === "" ? "Enter a name." : ""}
            onPress={() => change({ ...doc, loads: [...others, made(called.trim(), values)] })}
          >
            {others.length < kept.length ? "Save the case as it is now" : "Save in the master"}
          </Button>
          <Button
            $quiet
            why={others.length === kept.length ? "Choose a case first." : ""}
            onPress={() => (change({ ...doc, loads: others.length > 0 ? others : undefined }), setCalled(""))}
          >
            Remove the case
          </Button>
        </>
      )}
    </Row>
  );
}
