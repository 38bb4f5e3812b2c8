// Quality adds an operation to this build alone: what is to be done, where it stands in the
// way, why, and a second person who signs as well.
import { useState } from "react";
import { useChange } from "../../app/api";
import { useSession } from "../../app/session";
import type { Schemas } from "../../contract/types";
import { Button, Heading, Refusal, Row, SelectField, Stack, TextField } from "../../ui/parts";
import { Sign } from "../../ui/Sign";
import { SecondPerson, useSecond } from "./SecondPerson";

const kinds = ["sand", "trim", "drill", "machine", "bond", "prime", "coat", "adjust", "outside", "inspect"];

export function Rework({ code, operations }: { code: string; operations: Schemas["WorkStep"][] }) {
  const { may } = useSession();
  const [open, setOpen] = useState(false);
  if (!may("rework a part")) return null;
  if (!open)
    return (
      <div>
        <Button $quiet $small onPress={() => setOpen(true)}>
          Add a rework …
        </Button>
      </div>
    );
  return <ReworkForm code={code} operations={operations} close={() => setOpen(false)} />;
}

function ReworkForm({
  code,
  operations,
  close,
}: {
  code: string;
  operations: Schemas["WorkStep"][];
  close: () => void;
}) {
  const add = useChange("/api/finish/{code}/rework", close);
  const done = operations.filter((o) => o.state === "done");
  const next = operations.filter((o) => o.state === "waiting" || o.state === "ready");
  const [kind, setKind] = useState("sand");
  const [name, setName] = useState("");
  const [reason, setReason] = useState("");
  const [after, setAfter] = useState(done.at(-1)?.operation ?? "");
  const [before, setBefore] = useState(next[0]?.operation ?? "");
  const second = useSecond(true);
  const why =
    name.trim() === ""
      ? "Say what is to be done."
      : reason.trim() === ""
        ? "Enter the reason."
        : before === ""
          ? "Nothing is left that could wait for it."
          : second.pin === ""
            ? "The second person types their PIN."
            : "";
  const choices = (all: Schemas["WorkStep"][]) =>
    all.map((o) => (
      <option key={o.operation} value={o.operation}>
        {o.number} {o.label}
      </option>
    ));
  return (
    <Stack $gap={10}>
      <Heading>A rework of this build alone</Heading>
      <ReworkKind kind={kind} setKind={setKind} name={name} setName={setName} />
      <Row $gap={12} style={{ alignItems: "flex-end" }}>
        <SelectField label="After" value={after} onChange={(e) => setAfter(e.target.value)}>
          <option value="">nothing</option>
          {choices(operations.filter((o) => o.kind !== "release"))}
        </SelectField>
        <SelectField label="Before" value={before} onChange={(e) => setBefore(e.target.value)}>
          {choices(next)}
        </SelectField>
      </Row>
      <TextField label="Why it is reworked" value={reason} onChange={setReason} />
      <SecondPerson of={second} />
      <Refusal error={add.error} />
      <Sign
        action="Sign: add the rework"
        why={why}
        busy={add.isPending}
        sign={(pin) =>
          add.mutate({
            code,
            body: {
              kind,
              name: name.trim(),
              reason: reason.trim(),
              before: [before],
              ...(after ? { after: [after] } : {}),
              pin,
              secondId: second.id,
              secondPin: second.pin,
            },
          })
        }
      />
      <div>
        <Button $quiet $small onPress={close}>
          Cancel
        </Button>
      </div>
    </Stack>
  );
}

/** What kind of operation the rework is. */
function ReworkKind({
  kind,
  setKind,
  name,
  setName,
}: {
  kind: string;
  setKind: (value: string | ((prevState: string) => string)) => void;
  name: string;
  setName: (value: string | ((prevState: string) => string)) => void;
}) {
  return (
    <Row $gap={12} style={{ alignItems: "flex-end" }}>
      <SelectField label="Kind" value={kind} onChange={(e) => setKind(e.target.value)}>
        {kinds.map((k) => (
          <option key={k}>{k}</option>
        ))}
      </SelectField>
      <div style={{ flex: "1 1 240px" }}>
        <TextField label="What is to be done" value={name} onChange={setName} autoFocus />
      </div>
    </Row>
  );
}
