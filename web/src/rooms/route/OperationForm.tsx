// One operation as planned: what it is, what it waits for, where and how long, and what
// it asks and records.
import { useId, type RefObject } from "react";
import styled from "styled-components";
import { Button, Heading, NumberField, Row, SelectField, Stack, TextField } from "../../ui/parts";
import { Figure } from "../master/Detail";
import type { Stage } from "../master/edits";
import { FieldsForm } from "./FieldsForm";
import type { Operation, Placed } from "./lanes";
import { settingsOf } from "./SettingsForm";
import type { Schemas } from "../../contract/types";
import type { JSX } from "react";

export const operationKinds: Operation["kind"][] = [
  "cut",
  "kit",
  "prepare tool",
  "lay",
  "join",
  "close",
  "debulk",
  "cure",
  "demould",
  "post-cure",
  "trim",
  "drill",
  "machine",
  "bond",
  "inject",
  "sand",
  "prime",
  "coat",
  "mark",
  "adjust",
  "outside",
  "inspect",
  "release",
];

const Group = styled.fieldset`
  border: 0;
  padding: 0;
  margin: 0;
  legend {
    padding: 0;
    font-size: 14px;
    font-weight: 600;
    color: var(--g1);
  }
`;

export function OperationForm({
  o,
  placed,
  stages,
  places = [],
  change,
  wait,
  waits,
}: {
  o: Operation;
  placed: Placed[];
  stages: Stage[];
  /** Of the shop; none: any. */
  places?: string[];
  /** Missing: it is read only. */
  change: ((part: Partial<Operation>) => void) | undefined;
  wait: ((on: string, waits: boolean) => void) | undefined;
  /** Where the choice of what it waits for stands. */
  waits: RefObject<HTMLFieldSetElement | null>;
}) {
  const off = !change;
  const id = useId();
  const text = (
    name: "name" | "place" | "tool" | "qualification" | "hold" | "caution" | "note",
    label: string,
    grow = 1,
  ) => (
    <div style={{ flex: `${grow} 1 ${grow * 130}px` }}>
      <TextField
        label={label}
        value={o[name] ?? ""}
        isReadOnly={off}
        onChange={(v) => change?.({ [name]: v || undefined })}
      />
    </div>
  );
  const minutes = (name: "setUp" | "attended" | "unattended", label: string) => (
    <Figure label={label} scale={1 / 60} value={o[name]} off={off} min={0} set={(v) => change?.({ [name]: v })} />
  );
  return (
    <Stack $gap={10} role="group" aria-labelledby={id}>
      <Heading id={id}>Operation {placed.find((p) => p.key === o.key)?.number} · as planned</Heading>
      <Row $gap={12} style={{ alignItems: "flex-end" }}>
        <KindField o={o} off={off} change={change} />
        {text("name", "Name (empty: by its kind)", 2)}
      </Row>
      <StagesOf stages={stages} off={off} o={o} change={change} />
      <Group ref={waits}>
        <legend>Waits for</legend>
        <WaitsFor placed={placed} o={o} wait={wait} />
      </Group>
      <TimesAndPlace minutes={minutes} places={places} o={o} text={text} off={off} change={change} />
      <WhoDoesIt text={text} o={o} off={off} change={change} />
      {o.kind === "demould" && <GateField off={off} o={o} change={change} />}
      {o.kind === "bond" && (
        <TextField
          label="Adherends from elsewhere, with commas: bought parts, parts of other builds"
          value={(o.adherends ?? []).join(", ")}
          isReadOnly={off}
          onChange={(v) =>
            change?.({ adherends: v.trim() === "" ? undefined : v.split(",").map((x) => x.trimStart()) })
          }
        />
      )}
      <Row $gap={12}>
        {text("caution", "Caution, shown at the step")}
        {text("note", "Note")}
      </Row>
      <FieldsForm
        fields={o.fields ?? []}
        change={change && ((fields) => change({ fields: fields.length > 0 ? fields : undefined }))}
      />
    </Stack>
  );
}

/** The buttons beside an operation. */
export function OperationVerbs({ add, takeOut }: { add: () => void; takeOut: () => void }) {
  return (
    <Row $gap={8}>
      <Button $quiet $small onPress={add}>
        New operation after it
      </Button>
      <Button $quiet $small onPress={takeOut}>
        Remove
      </Button>
    </Row>
  );
}

/** The stages that the operation is about. */
function StagesOf({
  stages,
  off,
  o,
  change,
}: {
  stages: Schemas["Stage"][];
  off: boolean;
  o: Schemas["Operation"];
  change: undefined | ((part: Partial<Schemas["Operation"]>) => void);
}) {
  return (
    <Group>
      <legend>Stages</legend>
      <Row $gap={14} style={{ rowGap: 0 }}>
        {stages.map((s) => (
          <label key={s.key} style={{ minHeight: 32 }}>
            <input
              type="checkbox"
              disabled={off}
              checked={(o.stages ?? []).includes(s.key)}
              onChange={(e) =>
                change?.({
                  stages: stages
                    .filter((x) => (x.key === s.key ? e.target.checked : (o.stages ?? []).includes(x.key)))
                    .map((x) => x.key),
                })
              }
            />{" "}
            {s.name || s.kind}
          </label>
        ))}
      </Row>
    </Group>
  );
}

/** The operations that it waits for. */
function WaitsFor({
  placed,
  o,
  wait,
}: {
  placed: Schemas["OperationView"][];
  o: Schemas["Operation"];
  wait: undefined | ((on: string, waits: boolean) => void);
}) {
  return (
    <Row $gap={14} style={{ rowGap: 0 }}>
      {placed
        .filter((p) => p.key !== o.key)
        .map((p) => (
          <label key={p.key} style={{ minHeight: 32 }}>
            <input
              type="checkbox"
              disabled={!wait}
              checked={(o.after ?? []).includes(p.key)}
              onChange={(e) => wait?.(p.key, e.target.checked)}
            />{" "}
            {p.number} {p.label}
          </label>
        ))}
    </Row>
  );
}

/** How long it takes and where. */
function TimesAndPlace({
  minutes,
  places,
  o,
  text,
  off,
  change,
}: {
  minutes: (name: "attended" | "setUp" | "unattended", label: string) => JSX.Element;
  places: string[];
  o: Schemas["Operation"];
  text: (
    name: "caution" | "name" | "hold" | "note" | "place" | "qualification" | "tool",
    label: string,
    grow?: number,
  ) => JSX.Element;
  off: boolean;
  change: undefined | ((part: Partial<Schemas["Operation"]>) => void);
}) {
  return (
    <Row $gap={12} style={{ alignItems: "flex-end" }}>
      {minutes("setUp", "Set-up, min")}
      {minutes("attended", "Attended, min")}
      {minutes("unattended", "Running unattended, min")}
      {places.length === 0 || o.kind === "outside" ? (
        text("place", "Place")
      ) : (
        <SelectField
          label="Place"
          value={o.place ?? ""}
          disabled={off}
          onChange={(e) => change?.({ place: e.target.value || undefined })}
        >
          <option value="">any</option>
          {o.place && !places.includes(o.place) && <option>{o.place}</option>}
          {places.map((p) => (
            <option key={p}>{p}</option>
          ))}
        </SelectField>
      )}
      {text("tool", "Tool")}
    </Row>
  );
}

/** Who may do it, and what they are told. */
function WhoDoesIt({
  text,
  o,
  off,
  change,
}: {
  text: (
    name: "caution" | "name" | "hold" | "note" | "place" | "qualification" | "tool",
    label: string,
    grow?: number,
  ) => JSX.Element;
  o: Schemas["Operation"];
  off: boolean;
  change: undefined | ((part: Partial<Schemas["Operation"]>) => void);
}) {
  return (
    <Row $gap={12} style={{ alignItems: "flex-end" }}>
      {text("qualification", "Qualification")}
      {text("hold", "Hold point: work stops until", 2)}
      <label style={{ minHeight: 40, display: "inline-flex", alignItems: "center", gap: 8 }}>
        <input
          type="checkbox"
          checked={o.second ?? false}
          disabled={off}
          onChange={(e) => change?.({ second: e.target.checked || undefined })}
        />
        a second person signs
      </label>
    </Row>
  );
}

/** What kind of operation it is. */
function KindField({
  o,
  off,
  change,
}: {
  o: Schemas["Operation"];
  off: boolean;
  change: undefined | ((part: Partial<Schemas["Operation"]>) => void);
}) {
  return (
    <SelectField
      label="Kind"
      value={o.kind}
      disabled={off}
      onChange={(e) => change?.({ kind: e.target.value as Operation["kind"], ...settingsOf(e.target.value, o) })}
    >
      {operationKinds.map((k) => (
        <option key={k}>{k}</option>
      ))}
    </SelectField>
  );
}

/** What it waits for besides other operations. */
function GateField({
  off,
  o,
  change,
}: {
  off: boolean;
  o: Schemas["Operation"];
  change: undefined | ((part: Partial<Schemas["Operation"]>) => void);
}) {
  return (
    <div style={{ width: 240 }}>
      <NumberField
        late
        off={off}
        label="Not before the part is below, °C"
        kelvin
        value={o.below || NaN}
        onChange={(v) => change?.({ below: Number.isNaN(v) ? undefined : v })}
      />
    </div>
  );
}
