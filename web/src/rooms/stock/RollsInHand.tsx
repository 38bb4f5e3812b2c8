// What was scanned or ticked, moved with one press.
import { useState } from "react";
import { api, useChange } from "../../app/api";
import type { Schemas } from "../../contract/types";
import { Offer } from "../../app/Offer";
import { useSession } from "../../app/session";
import { Big, Button, Heading, Key, Mark, Row, Select, Stack, TextField } from "../../ui/parts";

type Roll = Schemas["RollView"];

type Move = ReturnType<typeof useChange<"/api/rolls/out">>;

/** What was scanned or ticked: one press for all of it. */
export function Hands({
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
