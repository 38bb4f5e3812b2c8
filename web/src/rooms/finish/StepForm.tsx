// What is done with an operation: taken up, signed with what it records, held, taken back,
// left out.
import { useEffect, useState } from "react";
import { client, useChange } from "../../app/api";
import type { Schemas } from "../../contract/types";
import { useKept } from "../../app/kept";
import { Offer } from "../../app/Offer";
import { useSession } from "../../app/session";
import { Button, NumberField, Refusal, Row, Stack, TextField } from "../../ui/parts";
import { ReasonForm } from "../../ui/ReasonForm";
import { RestoredEntries } from "../../ui/RestoredEntries";
import { said } from "../../ui/units";
import { Sign } from "../../ui/Sign";
import { Joined } from "./Joined";
import { SecondPerson, useSecond } from "./SecondPerson";
import { StepFields, type Values } from "./StepFields";

/** What the fields say of what is typed, asked anew when it changes. */
function useVerdicts(code: string, operation: string, fields: Values, asks: boolean) {
  const [verdicts, setVerdicts] = useState<Schemas["FieldCheckView"][]>([]);
  const key = JSON.stringify(fields);
  useEffect(() => {
    if (!asks) return;
    let stale = false;
    void client
      .POST("/api/finish/{code}/judge", {
        params: { path: { code } },
        body: { operation, fields: JSON.parse(key) as Values },
      })
      .then(({ data }) => !stale && setVerdicts((data ?? []).map((v) => ({ ...v, message: said(v.message) }))));
    return () => void (stale = true);
  }, [code, operation, key, asks]);
  return verdicts;
}

/** What is done in a room of its own and can be held there. */
const holds = ["cut", "kit", "lay", "join", "close"];

type Typed = {
  fields: Values;
  part: number;
  labels: string[];
  adherends: string[];
  due: string;
  vendor: string;
  although: string;
};

export function StepForm({ code, o, over }: { code: string; o: Schemas["WorkStep"]; over: boolean }) {
  const { may, person } = useSession();
  const operation = o.operation;
  const nothing: Typed = {
    fields: {},
    part: NaN,
    labels: [],
    adherends: [],
    due: "",
    vendor: o.planned.place ?? "",
    although: "",
  };
  const typed = useKept<Typed>(`step ${code} ${operation}`, nothing);
  const second = useSecond(o.planned.second ?? false);
  const start = useChange("/api/finish/{code}/start");
  const sign = useChange("/api/finish/{code}/sign", typed.done);
  const bad = useChange("/api/finish/{code}/sign", typed.done);
  const hold = useChange("/api/finish/{code}/hold");
  const back = useChange("/api/finish/{code}/take-back");
  const out = useChange("/api/finish/{code}/leave-out");
  // What is done in a room of its own is signed there; here it can only be left out.
  const begins = !over && o.single === true;
  const sends = o.kind === "outside" && o.state === "ready";
  const open = begins && (o.state === "ready" || o.state === "in work") && !sends;
  const records = o.planned.fields ?? [];
  const verdicts = useVerdicts(code, operation, typed.value.fields, open && records.length > 0);
  const { part, labels, adherends, due, vendor, although } = { ...nothing, ...typed.value };
  const forms = o.forms ?? [];
  const from = o.planned.adherends ?? [];
  const wrong = verdicts.find((v) => v.message)?.message ?? "";
  const why =
    labels.length < forms.length
      ? `Scan ${forms.length - labels.length === 1 ? "the label of one more pre-form" : "the labels of the pre-forms"}.`
      : from.some((_, k) => !adherends[k]?.trim())
        ? "Scan what is bonded, or type its marking."
        : wrong || (o.planned.second && second.pin === "" ? "The second person types their PIN." : "");
  const reasoned = (change: typeof hold) => ({
    mutate: (reason: string) => change.mutate({ code, body: { operation, reason } }),
    isPending: change.isPending,
    error: change.error,
  });
  if (over) return null;
  return (
    <Offer act="work on a part">
      <Stack $gap={14}>
        {open && <RestoredEntries since={typed.since} forget={typed.done} />}
        {open && (
          <StepFields
            fields={records}
            values={typed.value.fields}
            verdicts={verdicts}
            put={(fields) => typed.set((t) => ({ ...t, fields }))}
          />
        )}
        {open && forms.length > 0 && (
          <Joined
            code={code}
            operation={operation}
            forms={forms}
            labels={labels}
            although={although.trim() !== ""}
            put={(labels) => typed.set((t) => ({ ...t, labels }))}
          />
        )}
        {open && forms.some((f) => f.old) && person.role === "quality" && (
          <div style={{ maxWidth: 520 }}>
            <TextField
              label="Reason to join a pre-form past its life (empty: it is not joined)"
              value={although}
              onChange={(although) => typed.set((t) => ({ ...t, although }))}
            />
          </div>
        )}
        {open &&
          from.map((what, k) => (
            <div key={what + k} style={{ maxWidth: 420 }}>
              <TextField
                label={what}
                value={adherends[k] ?? ""}
                onChange={(text) =>
                  typed.set((t) => ({ ...t, adherends: from.map((_, n) => (n === k ? text : (t.adherends[n] ?? ""))) }))
                }
              />
            </div>
          ))}
        {begins && sends && (
          <Row $gap={12} style={{ alignItems: "flex-end" }}>
            <TextField label="Sent to" value={vendor} onChange={(vendor) => typed.set((t) => ({ ...t, vendor }))} />
            <TextField
              label="Due back"
              type="datetime-local"
              value={due}
              onChange={(due) => typed.set((t) => ({ ...t, due }))}
            />
          </Row>
        )}
        {open && o.planned.below !== undefined && (
          <div style={{ maxWidth: 260 }}>
            <NumberField
              bench
              label="Part temperature, °C (empty: last reading of its run)"
              kelvin
              value={part}
              onChange={(v) => typed.set((t) => ({ ...t, part: v }))}
            />
          </div>
        )}
        {open && o.planned.second && <SecondPerson of={second} />}
        <Refusal error={sign.error ?? start.error} />
        <Row $gap={12}>
          {((begins && o.state === "ready") || (o.state === "held" && (!o.notGood || person.role === "quality"))) && (
            <Button
              $bench
              $quiet
              why={sends && (due === "" || vendor.trim() === "") ? "Enter where it goes and when it is due back." : ""}
              onPress={() =>
                start.mutate({
                  code,
                  body: { operation, ...(sends && due ? { due: new Date(due).toISOString(), vendor } : {}) },
                })
              }
              isDisabled={start.isPending}
            >
              {o.state === "held" ? "Resume" : sends ? "Sent" : "Start"}
            </Button>
          )}
          {open && (
            <Button
              $bench
              why={why}
              isDisabled={sign.isPending}
              onPress={() =>
                sign.mutate({
                  code,
                  body: {
                    operation,
                    fields: typed.value.fields,
                    ...(forms.length > 0 ? { labels, although } : {}),
                    ...(from.length > 0 ? { adherends } : {}),
                    ...(Number.isNaN(part) ? {} : { part }),
                    ...(o.planned.second ? { secondId: second.id, secondPin: second.pin } : {}),
                  },
                })
              }
            >
              {o.kind === "outside" ? "Sign: it is back" : "Sign: done"}
            </Button>
          )}
        </Row>
        <Row $gap={12} $top>
          {(open || (!over && !o.single && holds.includes(o.kind) && ["ready", "in work"].includes(o.state))) && (
            <ReasonForm opens="Hold it, refer …" why="What to check" does="Hold it" run={reasoned(hold)} />
          )}
          {open && o.kind !== "join" && (
            <ReasonForm
              opens="Not good …"
              why="What is not good"
              does={o.kind === "inspect" ? "Sign: not good" : "Sign: not good, hold it"}
              run={{
                mutate: (notGood: string) =>
                  bad.mutate({ code, body: { operation, fields: typed.value.fields, notGood } }),
                isPending: bad.isPending,
                error: bad.error,
              }}
            >
              <small>What is entered above is recorded as it is. The operation is held until quality decides.</small>
            </ReasonForm>
          )}
          {begins && o.signed && (
            <ReasonForm opens="Take back …" why="What was wrong" does="Take it back" run={reasoned(back)} />
          )}
        </Row>
        {may("leave an operation out") && o.kind !== "release" && ["waiting", "ready", "held"].includes(o.state) && (
          <LeaveOut
            run={(reason, pin) => out.mutate({ code, body: { operation, reason, pin } })}
            busy={out.isPending}
            error={out.error}
          />
        )}
      </Stack>
    </Offer>
  );
}

/** Quality leaves an operation out of this build, with a reason and the PIN. */
function LeaveOut({ run, busy, error }: { run: (reason: string, pin: string) => void; busy: boolean; error: unknown }) {
  const [asking, setAsking] = useState(false);
  const [reason, setReason] = useState("");
  if (!asking)
    return (
      <div>
        <Button $quiet $small onPress={() => setAsking(true)}>
          Omit from this build …
        </Button>
      </div>
    );
  return (
    <Stack $gap={8}>
      <TextField label="Why it is left out" value={reason} onChange={setReason} autoFocus />
      <Refusal error={error} />
      <Sign
        action="Sign: leave it out"
        why={reason.trim() === "" ? "Enter the reason." : ""}
        busy={busy}
        sign={(pin) => run(reason, pin)}
      />
    </Stack>
  );
}
