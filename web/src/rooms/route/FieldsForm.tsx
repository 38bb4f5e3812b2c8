// What an operation records besides its signature: values with limits, choices, texts,
// pictures, scans and products.
import type { Schemas } from "../../contract/types";
import { Button, Heading, Row, SelectField, Stack, TextField } from "../../ui/parts";
import { Figure } from "../master/Detail";

type Field = Schemas["Field"];
const kinds: Field["kind"][] = ["value", "choice", "text", "picture", "scan", "product", "paper"];

export function FieldsForm({ fields, change }: { fields: Field[]; change: ((all: Field[]) => void) | undefined }) {
  const put = (k: number, part: Partial<Field>) => change?.(fields.map((f, n) => (n === k ? { ...f, ...part } : f)));
  const add = () => {
    let n = fields.length + 1;
    while (fields.some((f) => f.key === `f${n}`)) n++;
    change?.([...fields, { key: `f${n}`, name: "what is measured", kind: "value" }]);
  };
  return (
    <Stack $gap={8}>
      <Heading>Records</Heading>
      {fields.length === 0 && <p style={{ color: "var(--g1)" }}>Signature and time only.</p>}
      {fields.map((f, k) => (
        <FieldRow key={f.key} f={f} change={change} put={put} k={k} fields={fields} />
      ))}
      {change && (
        <div>
          <Button $quiet $small onPress={add}>
            Add a record
          </Button>
        </div>
      )}
    </Stack>
  );
}

/** What kind of field it is. */
function FieldKind({ f, change }: { f: Field; change: ((part: Partial<Field>) => void) | undefined }) {
  return (
    <SelectField
      label="Kind"
      value={f.kind}
      disabled={!change}
      // What belongs to the old kind alone goes with it.
      onChange={(e) =>
        change?.({
          kind: e.target.value as Field["kind"],
          least: undefined,
          most: undefined,
          from: undefined,
          to: undefined,
          pot: undefined,
          ...(e.target.value === "value" ? {} : { unit: undefined }),
          choices: e.target.value === "choice" ? ["yes", "no"] : undefined,
        })
      }
    >
      {kinds.map((x) => (
        <option key={x}>{x}</option>
      ))}
    </SelectField>
  );
}

/** One thing that is recorded. */
function FieldRow({
  f,
  change,
  put,
  k,
  fields,
}: {
  f: Schemas["Field"];
  change: undefined | ((all: Schemas["Field"][]) => void);
  put: (k: number, part: Partial<Schemas["Field"]>) => undefined | void;
  k: number;
  fields: Schemas["Field"][];
}) {
  return (
    <Row $gap={10} style={{ alignItems: "flex-end" }} role="group" aria-label={f.name}>
      <div style={{ flex: "2 1 160px" }}>
        <TextField label="What is recorded" value={f.name} isReadOnly={!change} onChange={(name) => put(k, { name })} />
      </div>
      <FieldKind f={f} change={change && ((part) => put(k, part))} />
      {f.kind === "value" && (
        <>
          <div style={{ width: 80 }}>
            <TextField
              label="Unit"
              value={f.unit ?? ""}
              isReadOnly={!change}
              onChange={(v) => put(k, { unit: v || undefined })}
            />
          </div>
          <Figure narrow label="min." scale={1} value={f.least} off={!change} set={(v) => put(k, { least: v })} />
          <Figure narrow label="max." scale={1} value={f.most} off={!change} set={(v) => put(k, { most: v })} />
          <Figure narrow label="gauge from" scale={1} value={f.from} off={!change} set={(v) => put(k, { from: v })} />
          <Figure narrow label="gauge to" scale={1} value={f.to} off={!change} set={(v) => put(k, { to: v })} />
        </>
      )}
      {f.kind === "choice" && (
        <div style={{ flex: "1 1 160px" }}>
          <TextField
            label="Choices, with commas"
            value={(f.choices ?? []).join(", ")}
            isReadOnly={!change}
            onChange={(v) => put(k, { choices: v.split(",").map((x) => x.trimStart()) })}
          />
        </div>
      )}
      {f.kind === "product" && (
        <Figure
          label="Pot life, min"
          scale={1 / 60}
          value={f.pot}
          off={!change}
          min={0}
          set={(v) => put(k, { pot: v })}
        />
      )}
      <label style={{ minHeight: 40, display: "inline-flex", alignItems: "center", gap: 6 }}>
        <input
          type="checkbox"
          checked={f.free ?? false}
          disabled={!change}
          onChange={(e) => put(k, { free: e.target.checked || undefined })}
        />
        may be empty
      </label>
      {change && (
        <Button $quiet $small onPress={() => change(fields.filter((_, n) => n !== k))} aria-label={`Remove ${f.name}`}>
          Remove
        </Button>
      )}
    </Row>
  );
}
