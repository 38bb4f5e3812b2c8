// What the shop's cutting table does: its times and the ways of its knife follow from it.
import { useState } from "react";
import { Link } from "react-router";
import { api, useChange } from "../../app/api";
import { useSession } from "../../app/session";
import { useTitle } from "../../app/shell";
import type { Schemas } from "../../contract/types";
import { Big, Loading, NumberField, Page, Row } from "../../ui/parts";
import { ReasonedChange } from "../../ui/ReasonForm";
import { useSay } from "../../ui/say";
import { shortNumber } from "../../ui/units";

type Values = Schemas["Cutter"];

/** Fields with their unit, and what of them is the SI value. */
const fields: readonly { key: keyof Values; label: string; by: number }[] = [
  { key: "feed", label: "Cutting speed, mm/s", by: 1e-3 },
  { key: "rapid", label: "Travel speed, mm/s", by: 1e-3 },
  { key: "acceleration", label: "Acceleration, m/s²", by: 1 },
  { key: "jump", label: "Change of speed at a corner, mm/s", by: 1e-3 },
  { key: "lower", label: "Lowering time, s", by: 1 },
  { key: "lift", label: "Lift time, s", by: 1 },
  { key: "turnDeg", label: "Knife rotation speed, °/s", by: 1 },
  { key: "toolChange", label: "Pen to knife, s", by: 1 },
  { key: "cornerDeg", label: "Lift at corners above, °", by: 1 },
  { key: "leadIn", label: "Lead-in, mm", by: 1e-3 },
  { key: "overcut", label: "Overcut, mm", by: 1e-3 },
  { key: "table", label: "Length of the table, m", by: 1 },
  { key: "advance", label: "Conveyor advance time, s", by: 1 },
];

export function Cutter() {
  useTitle("The cutting table");
  const kept = api.useQuery("get", "/api/cutter");
  if (!kept.data) return <Loading error={kept.error} />;
  return (
    <Page>
      <Form key={kept.data.version} v={kept.data} />
      <Link to="/cut">Back to what waits to be cut</Link>
    </Page>
  );
}

function Form({ v }: { v: Schemas["CutterView"] }) {
  const writes = useSession().may("change the shop's rules");
  const say = useSay();
  const save = useChange("/api/cutter", () => say("The cutting table is kept.", true));
  const [cutter, setCutter] = useState(v.cutter);
  const empty = fields.some((f) => Number.isNaN(cutter[f.key]));
  return (
    <section aria-label="The cutting table" style={{ paddingBottom: 24, maxWidth: 900 }}>
      <ReasonedChange
        writes={writes}
        label="Reason"
        does="Save"
        lacks={empty ? "Fill every value." : ""}
        save={{ ...save, run: (reason) => save.mutate({ body: { version: v.version, cutter, reason } }) }}
      >
        <Big>The cutting table</Big>
        <p>
          {v.version === 0 && "Usual values: the shop’s own are not entered. "}Times, and where the knife is lifted,
          follow from it; take the values from the maker’s papers. A table of length 0 is longer than any sheet.
        </p>
        <Row $gap={12} style={{ alignItems: "end" }}>
          {fields.map((f) => (
            <div key={f.key} style={{ width: 200 }}>
              {writes ? (
                <NumberField
                  label={f.label}
                  value={Math.round((cutter[f.key] / f.by) * 1e6) / 1e6}
                  onChange={(n) => setCutter({ ...cutter, [f.key]: n * f.by })}
                  min={0}
                />
              ) : (
                <>
                  <small>{f.label}</small>
                  <br />
                  <b>{shortNumber(cutter[f.key] / f.by)}</b>
                </>
              )}
            </div>
          ))}
        </Row>
      </ReasonedChange>
    </section>
  );
}
