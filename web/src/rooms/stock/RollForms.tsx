// What can be done to one roll, each a short form in its place.
import { useState, type FormEvent, type ReactNode } from "react";
import { useChange } from "../../app/api";
import type { Schemas } from "../../contract/types";
import { fieldTime, told } from "../../ui/format";
import { Button, Heading, NumberField, Refusal, Row, Select, SelectField, Stack, TextField } from "../../ui/parts";
import { fromSize, unitName } from "../../ui/units";

type Detail = Schemas["RollDetail"];
type Props = { r: Detail; done: () => void };

function Form({
  title,
  label,
  why = "",
  busy,
  error,
  go,
  done,
  children,
}: {
  title: string;
  label: string;
  /** What is missing yet. */
  why?: string;
  busy: boolean;
  error: unknown;
  go: () => void;
  done: () => void;
  children: ReactNode;
}) {
  const submit = (e: FormEvent) => {
    e.preventDefault();
    if (!why && !busy) go();
  };
  return (
    <form
      onSubmit={submit}
      style={{ borderTop: "2px solid var(--ink)", borderBottom: "2px solid var(--ink)", padding: "10px 0" }}
    >
      <Stack $gap={10}>
        <Heading>{title}</Heading>
        {children}
        <Refusal error={error} />
        <Row>
          <Button type="submit" $bench why={why} isDisabled={busy}>
            {label}
          </Button>
          <Button $quiet onPress={done}>
            Cancel
          </Button>
        </Row>
      </Stack>
    </form>
  );
}

/** Above the dew point by sensor and forecast, or by what a gauge says. */
export function OpenBag({ r, done }: Props) {
  const open = useChange("/api/rolls/{code}/open", done);
  const [room, setRoom] = useState(NaN);
  const [humidity, setHumidity] = useState(NaN);
  const [coldest, setColdest] = useState(NaN);
  const [override, setOverride] = useState("");
  const go = () =>
    open.mutate({
      code: r.code,
      body: {
        ...(Number.isNaN(room) ? {} : { room }),
        ...(Number.isNaN(humidity) ? {} : { humidity: humidity / 100 }),
        ...(Number.isNaN(coldest) ? {} : { coldest }),
        ...(override ? { override } : {}),
      },
    });
  return (
    <Form
      title="Open the bag, above the dew point"
      label="Bag opened"
      busy={open.isPending}
      error={open.error}
      go={go}
      done={done}
    >
      <p>
        {r.room?.dewPoint !== undefined
          ? `The room's sensor says ${told.degrees(r.room.temperature ?? 0, 1)} and a dew point of ${told.degrees(r.room.dewPoint, 1)}. Leave the fields empty to use it.`
          : "No sensor measures the room now: read a gauge."}
      </p>
      <Row $gap={10}>
        <div style={{ width: 110 }}>
          <NumberField kelvin label="Room, °C" value={room} onChange={setRoom} />
        </div>
        <div style={{ width: 110 }}>
          <NumberField label="Humidity, %" value={humidity} onChange={setHumidity} min={1} max={100} />
        </div>
        <div style={{ width: 150 }}>
          <NumberField kelvin label="Roll at its tube, °C" value={coldest} onChange={setColdest} />
        </div>
      </Row>
      <TextField label="Reason, if it is opened although it is too cold" value={override} onChange={setOverride} />
    </Form>
  );
}

export function UseLength({ r, done }: Props) {
  const use = useChange("/api/rolls/{code}/use", done);
  const [length, setLength] = useState(NaN);
  const [note, setNote] = useState("");
  return (
    <Form
      title="Cut by hand"
      label="Taken off"
      why={!(length > 0) ? "Enter the length." : note.trim() === "" ? "Enter what for." : ""}
      busy={use.isPending}
      error={use.error}
      go={() => use.mutate({ code: r.code, body: { length, note } })}
      done={done}
    >
      <NumberField
        label={`Length, ${r.unit} (${told.amount(r.length, r.unit)} left)`}
        value={length}
        onChange={setLength}
        min={0}
      />
      <TextField label="What for" value={note} onChange={setNote} />
    </Form>
  );
}

type Reason = Schemas["ScrapLength"]["reason"];
/** All that the server knows, in the order of the list. */
const reasons = Object.keys({
  expired: true,
  contaminated: true,
  damaged: true,
  "wrongly cut": true,
  "too short to use": true,
  "failed test": true,
  other: true,
} satisfies Record<Reason, true>) as Reason[];

export function ScrapLength({ r, done }: Props) {
  const scrap = useChange("/api/rolls/{code}/scrap", done);
  const [length, setLength] = useState(NaN);
  const [reason, setReason] = useState<Reason>("expired");
  const [note, setNote] = useState("");
  return (
    <Form
      title="Throw away"
      label={length > 0 ? `Scrap ${told.amount(length, r.unit)}` : "Scrap all of it"}
      why={reason === "other" && note.trim() === "" ? "Enter what it is." : ""}
      busy={scrap.isPending}
      error={scrap.error}
      go={() =>
        scrap.mutate({ code: r.code, body: { reason, ...(length > 0 ? { length } : {}), ...(note ? { note } : {}) } })
      }
      done={done}
    >
      <NumberField
        label={`Length, ${r.unit} (empty: all ${told.amount(r.length, r.unit)})`}
        value={length}
        onChange={setLength}
        min={0}
      />
      <SelectField label="Why" value={reason} onChange={(e) => setReason(e.target.value as Reason)}>
        {reasons.map((x) => (
          <option key={x}>{x}</option>
        ))}
      </SelectField>
      <TextField label="What happened" value={note} onChange={setNote} />
    </Form>
  );
}

/** Corners as "0,0 300,0 300,200" in mm, or a rectangle by its two sides. */
function corners(text: string): [number, number][] | null {
  const points = text
    .trim()
    .split(/\s+/)
    .map((p) => p.split(",").map(Number));
  if (points.length < 3 || points.some((p) => p.length !== 2 || p.some((v) => !Number.isFinite(v)))) return null;
  return points.map(([x, y]) => [fromSize(x!), fromSize(y!)]);
}

export function KeepOffCut({ r, done }: Props) {
  const keep = useChange("/api/rolls/{code}/offcut", done);
  const [along, setAlong] = useState(NaN);
  const [across, setAcross] = useState(NaN);
  const [shape, setShape] = useState("");
  const [take, setTake] = useState(NaN);
  const outline = shape
    ? corners(shape)
    : along > 0 && across > 0
      ? ([
          [0, 0],
          [along / 1e3, 0],
          [along / 1e3, across / 1e3],
          [0, across / 1e3],
        ] as [number, number][])
      : null;
  return (
    <Form
      title="Keep an off-cut, with an id of its own"
      label="Keep it"
      why={outline === null ? "Enter its length and width." : ""}
      busy={keep.isPending}
      error={keep.error}
      go={() => outline && keep.mutate({ code: r.code, body: { outline, ...(take > 0 ? { take } : {}) } })}
      done={done}
    >
      <Row $gap={10}>
        <div style={{ width: 130 }}>
          <NumberField label="Along the roll, mm" value={along} onChange={setAlong} min={0} />
        </div>
        <div style={{ width: 130 }}>
          <NumberField label="Across, mm" value={across} onChange={setAcross} min={0} />
        </div>
        <div style={{ width: 190 }}>
          <NumberField label="Length it takes off the roll, m" value={take} onChange={setTake} min={0} />
        </div>
      </Row>
      <TextField
        label={`Or its corners in ${unitName("size")}, as 0,0 30,0 30,20 10,35`}
        value={shape}
        onChange={setShape}
      />
      <p style={{ color: "var(--g1)" }}>
        Leave the length empty for what lay beside plies already cut. It carries the clock of its roll, and is out and
        open.
      </p>
    </Form>
  );
}

export function AddFlaw({ r, done }: Props) {
  const set = useChange("/api/rolls/{code}/flaws", done);
  const [from, setFrom] = useState(NaN);
  const [to, setTo] = useState(NaN);
  const [kind, setKind] = useState<"flaw" | "splice">("flaw");
  const [note, setNote] = useState("");
  const [dropped, setDropped] = useState<number[]>([]);
  const kept = r.flaws.filter((f) => !dropped.includes(f.from));
  const adds = from >= 0 && to > from;
  return (
    <Form
      title="Flaws and splices, in m from the present end"
      label="Write the map"
      why={adds || dropped.length > 0 ? "" : "Enter its limits, or remove it."}
      busy={set.isPending}
      error={set.error}
      go={() =>
        set.mutate({
          code: r.code,
          body: { flaws: [...kept, ...(adds ? [{ from, to, kind, ...(note ? { note } : {}) }] : [])] },
        })
      }
      done={done}
    >
      {r.flaws.map((f) => (
        <label key={f.from}>
          <input
            type="checkbox"
            checked={!dropped.includes(f.from)}
            onChange={(e) => setDropped(e.target.checked ? dropped.filter((d) => d !== f.from) : [...dropped, f.from])}
          />{" "}
          {f.kind ?? "flaw"} at {told.run(f.from)} to {told.run(f.to)} {f.note && <small>{f.note}</small>}
        </label>
      ))}
      <Row $gap={10}>
        <div style={{ width: 90 }}>
          <NumberField label="From, m" value={from} onChange={setFrom} min={0} />
        </div>
        <div style={{ width: 90 }}>
          <NumberField label="To, m" value={to} onChange={setTo} min={0} />
        </div>
        <Select aria-label="Kind" value={kind} onChange={(e) => setKind(e.target.value as typeof kind)}>
          <option>flaw</option>
          <option>splice</option>
        </Select>
        <div style={{ flex: 1, minWidth: 140 }}>
          <TextField label="Description" value={note} onChange={setNote} />
        </div>
      </Row>
    </Form>
  );
}

export function CorrectForm({
  line,
  unit,
  done,
  send,
  busy,
  error,
}: {
  line: Schemas["RollLine"];
  /** Of the roll's lengths: m, or pieces. */
  unit: string;
  done: () => void;
  send: (body: Schemas["Correction"]) => void;
  busy: boolean;
  error: unknown;
}) {
  const [reason, setReason] = useState("");
  const [instead, setInstead] = useState(line.kind === "received");
  const [at, setAt] = useState(fieldTime(line.at));
  const [length, setLength] = useState(line.length || NaN);
  const body = {
    line: line.id,
    reason,
    ...(instead ? { instead: { at: new Date(at).toISOString(), ...(length > 0 ? { length } : {}) } } : {}),
  };
  return (
    <Form
      title="Take this line back by a counter-entry; both stay on record"
      label={instead ? "Correct it" : "Take it back"}
      why={reason.trim() === "" ? "Enter what was wrong." : ""}
      busy={busy}
      error={error}
      go={() => send(body)}
      done={done}
    >
      <TextField label="What was wrong" value={reason} onChange={setReason} autoFocus />
      {line.kind !== "received" && (
        <label>
          <input type="checkbox" checked={instead} onChange={(e) => setInstead(e.target.checked)} /> It happened, but
          differently
        </label>
      )}
      {instead && (
        <Row $gap={10}>
          <TextField label="Actual time" type="datetime-local" value={at} onChange={setAt} />
          {line.length > 0 && (
            <div style={{ width: 120 }}>
              <NumberField label={`Length, ${unit}`} value={length} onChange={setLength} min={0} />
            </div>
          )}
        </Row>
      )}
    </Form>
  );
}
