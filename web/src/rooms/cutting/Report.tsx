// How a nest came off the table: all as planned, or with exceptions, and what is kept of the rest.
import { useState } from "react";
import { api } from "../../app/api";
import { useKeys } from "../../app/keys";
import { Offer } from "../../app/Offer";
import type { Schemas } from "../../contract/types";
import { told } from "../../ui/format";
import { Button, Row, Select, SelectField, Table, TextField } from "../../ui/parts";

type Why = Schemas["MissingPly"]["why"];

const whys = ["damaged", "lost", "flawed", "not cut"] as const satisfies readonly Why[];

type Props = { nest: Schemas["NestView"]; busy: boolean; may: boolean; go: (body: Schemas["CutReport"]) => void };

export function Report({ nest, busy, may, go }: Props) {
  const freezers = api.useQuery("get", "/api/freezers");
  // What the table told: what it did not cut free is not there.
  const apart = nest.job?.report ?? [];
  const [missing, setMissing] = useState<Record<string, Why>>(Object.fromEntries(apart.map((f) => [f.piece, f.why])));
  const [listed, setListed] = useState(apart.length > 0);
  const [keep, setKeep] = useState(false);
  const [freezer, setFreezer] = useState("");
  const [place, setPlace] = useState("");
  const [began, setBegan] = useState("");
  const { job } = nest;
  // By hand, a roll that ran out meanwhile asks when the knife began.
  const ranOut = !job && nest.rollRanOut;
  const bad = Object.keys(missing).length;
  const rest = nest.rest && nest.rest.width > 0 ? nest.rest : undefined;
  const send = () =>
    go({
      missing: Object.entries(missing).map(([piece, why]) => ({ piece, why })),
      ...(ranOut && began ? { began: new Date(began).toISOString() } : {}),
      ...(keep && rest ? { keep: { place, ...(freezer ? { freezerId: Number(freezer) } : {}) } } : {}),
    });
  useKeys({
    k: { label: "record the cut", run: send, off: !may || busy },
    x: { label: "name exceptions", run: () => setListed(true), off: !may },
  });
  return (
    <>
      {listed && <CameOff nest={nest} missing={missing} setMissing={setMissing} />}
      {rest && <KeepRest keep={keep} setKeep={setKeep} rest={rest} />}
      {keep && rest && (
        <Row $gap={10} style={{ marginBottom: 8 }}>
          <SelectField label="Goes to" value={freezer} onChange={(e) => setFreezer(e.target.value)}>
            <option value="">where the roll goes</option>
            {freezers.data?.map((f) => (
              <option key={f.id} value={f.id}>
                {f.name}
              </option>
            ))}
          </SelectField>
          <TextField label="Its place" value={place} onChange={setPlace} />
        </Row>
      )}
      {ranOut && (
        <Row $gap={10} style={{ margin: "8px 0", alignItems: "end" }}>
          <TextField
            label={`${nest.roll} has run out: the knife began at`}
            type="datetime-local"
            value={began}
            onChange={setBegan}
          />
        </Row>
      )}
      <Row>
        <Offer act="nest and cut">
          {/* Where a table waits for the nest, cutting by hand comes second. */}
          <Button $bench $quiet={nest.table && !nest.job} onPress={send} isDisabled={busy}>
            {bad === 0
              ? nest.placed.length === 1
                ? "The ply is cut"
                : `All ${nest.placed.length} plies are cut`
              : `${nest.placed.length - bad} of ${nest.placed.length} plies are cut`}
          </Button>
        </Offer>
        {!listed && may && (
          <Button $quiet onPress={() => setListed(true)}>
            Not all are good
          </Button>
        )}
      </Row>
    </>
  );
}

/** Which plies came off the table. */
function CameOff({
  nest,
  missing,
  setMissing,
}: {
  nest: Schemas["NestView"];
  missing: Record<string, "damaged" | "lost" | "flawed" | "not cut">;
  setMissing: (
    value:
      | Record<string, "damaged" | "lost" | "flawed" | "not cut">
      | ((
          prevState: Record<string, "damaged" | "lost" | "flawed" | "not cut">,
        ) => Record<string, "damaged" | "lost" | "flawed" | "not cut">),
  ) => void;
}) {
  return (
    <div style={{ maxHeight: 320, overflow: "auto", margin: "8px 0", border: "1px solid var(--g4)" }}>
      <Table>
        <thead>
          <tr>
            <th>Ply</th>
            <th>Came off the table</th>
          </tr>
        </thead>
        <tbody>
          {nest.placed.map((p) => (
            <tr key={p.id}>
              <td>
                <b>{p.label}</b>
              </td>
              <td>
                <Select
                  aria-label={`${p.label} came off the table`}
                  value={missing[p.id] ?? ""}
                  onChange={(e) =>
                    setMissing((before) => {
                      const next = { ...before };
                      delete next[p.id];
                      const why = whys.find((w) => w === e.target.value);
                      return why ? { ...next, [p.id]: why } : next;
                    })
                  }
                >
                  <option value="">good</option>
                  {whys.map((w) => (
                    <option key={w}>{w}</option>
                  ))}
                </Select>
              </td>
            </tr>
          ))}
        </tbody>
      </Table>
    </div>
  );
}

/** Whether the rest is kept as an off-cut. */
function KeepRest({
  keep,
  setKeep,
  rest,
}: {
  keep: boolean;
  setKeep: (value: boolean | ((prevState: boolean) => boolean)) => void;
  rest: Schemas["Remnant"];
}) {
  return (
    <label style={{ display: "flex", gap: 10, alignItems: "center", minHeight: 44 }}>
      <input
        type="checkbox"
        checked={keep}
        onChange={(e) => setKeep(e.target.checked)}
        style={{ width: 22, height: 22, accentColor: "var(--blue)" }}
      />
      <span>
        Keep the {told.size(rest.width, 0)} × {told.size(rest.height, 0)} that is left as an off-cut
      </span>
    </label>
  );
}
