// The fields of an operation, with what each asks and whether what is typed meets it.
import { useState } from "react";
import { api, base64, client } from "../../app/api";
import { explain, type Schemas } from "../../contract/types";
import { fieldTime, spell } from "../../ui/format";
import { counted, useNow } from "../../ui/now";
import { Caution, Mark, NumberField, Row, SelectField, Stack, TextField } from "../../ui/parts";
import { inOwn } from "../../ui/units";

type Field = Schemas["Field"];
type Value = Schemas["Value"];
export type Values = Record<string, Value>;

export function StepFields({
  fields,
  values,
  verdicts,
  put,
}: {
  fields: Field[];
  values: Values;
  verdicts: Schemas["FieldCheckView"][];
  put: (values: Values) => void;
}) {
  return (
    <Stack $gap={14}>
      {fields.map((f) => {
        const verdict = verdicts.find((v) => v.key === f.key);
        const given = values[f.key] !== undefined;
        return (
          <Stack key={f.key} $gap={4}>
            <Entry f={f} value={values[f.key] ?? {}} set={(v) => put({ ...values, [f.key]: v })} />
            <Row $gap={10}>
              <small>{asks(f)}</small>
              <span role="status">
                {given && verdict && (verdict.message || verdict.met) && (
                  <Mark tone={verdict.met ? "met" : "stop"}>{verdict.met ? "met" : verdict.message}</Mark>
                )}
              </span>
            </Row>
            {f.pot !== undefined && values[f.key]?.at && <PotClock at={values[f.key]!.at!} pot={f.pot} />}
            {f.caution && <Caution>{f.caution}</Caution>}
          </Stack>
        );
      })}
    </Stack>
  );
}

/** How long a mix may still be used: it counts down, and says when it is over. */
function PotClock({ at, pot }: { at: string; pot: number }) {
  const session = api.useQuery("get", "/api/session");
  const now = useNow(session.data?.now);
  const left = pot - (now.getTime() - new Date(at).getTime()) / 1000;
  return (
    <Mark tone={left <= 0 ? "stop" : left < 300 ? "attend" : "plain"}>
      <span role="timer">
        {left > 0 ? `${counted(left)} left of the pot` : `the pot is over since ${counted(left)}: mix anew`}
      </span>
    </Mark>
  );
}

/** What a field asks, in a few words. */
function asks(f: Field) {
  const own = (v: number) => (f.unit ? inOwn(v, f.unit) : String(v));
  const limits = [
    f.least !== undefined && `at least ${own(f.least)}`,
    f.most !== undefined && `at most ${own(f.most)}`,
  ];
  return [...limits, f.pot && `pot life ${spell(f.pot)}`, f.free && "may be left empty"].filter(Boolean).join(", ");
}

function Entry({ f, value, set }: { f: Field; value: Value; set: (v: Value) => void }) {
  switch (f.kind) {
    case "value":
      return (
        <div style={{ maxWidth: 260 }}>
          <NumberField
            bench
            label={`${f.name}${f.unit ? `, ${f.unit}` : ""}`}
            value={value.number ?? NaN}
            onChange={(n) => set(Number.isNaN(n) ? {} : { number: n })}
          />
        </div>
      );
    case "choice":
      return (
        <div style={{ maxWidth: 260 }}>
          <SelectField label={f.name} value={value.text ?? ""} onChange={(e) => set({ text: e.target.value })}>
            <option value="">choose</option>
            {(f.choices ?? []).map((c) => (
              <option key={c}>{c}</option>
            ))}
          </SelectField>
        </div>
      );
    case "picture":
    case "paper":
      return <Kept label={f.name} paper={f.kind === "paper"} value={value} set={set} />;
    case "product":
      return (
        <Row $gap={12} style={{ alignItems: "flex-end" }}>
          <div style={{ flex: "1 1 200px" }}>
            <TextField
              label={`${f.name}: its batch`}
              value={value.text ?? ""}
              onChange={(text) => set({ ...value, text })}
            />
          </div>
          <TextField
            label="Mixed or opened at"
            type="datetime-local"
            value={value.at ? fieldTime(value.at) : ""}
            onChange={(at) => set({ text: value.text ?? "", ...(at ? { at: new Date(at).toISOString() } : {}) })}
          />
        </Row>
      );
    default:
      return <TextField label={f.name} value={value.text ?? ""} onChange={(text) => set({ text })} />;
  }
}

/** A picture or a paper that is kept: chosen or taken, and sent at once. */
function Kept({ label, paper, value, set }: { label: string; paper: boolean; value: Value; set: (v: Value) => void }) {
  const [message, setMessage] = useState("");
  const choose = async (file: File | undefined) => {
    if (!file) return;
    setMessage("sending …");
    const { data, error } = await client.POST("/api/files", { body: { name: file.name, content: await base64(file) } });
    setMessage(error ? explain(error).message : "");
    if (data) set({ fileId: data.id, text: data.name });
  };
  return (
    <label>
      <span style={{ fontSize: 14, fontWeight: 600, color: "var(--g1)" }}>
        {label} ({paper ? "PDF, PNG or JPEG" : "PNG or JPEG"})
      </span>
      <br />
      <input
        type="file"
        accept={paper ? "application/pdf,image/png,image/jpeg" : "image/png,image/jpeg"}
        onChange={(e) => {
          void choose(e.target.files?.[0]);
          e.target.value = "";
        }}
        style={{ minHeight: 40, font: "inherit" }}
      />{" "}
      {value.fileId && <Mark tone="met">kept: {value.text}</Mark>}
      {message && <Mark tone={message === "sending …" ? "plain" : "stop"}>{message}</Mark>}
    </label>
  );
}
