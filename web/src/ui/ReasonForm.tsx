// Something that is asked for a reason before it is done, and may be left.
import { useState, type ReactNode } from "react";
import { Button, Refusal, Row, Stack, TextField } from "./parts";

export function ReasonForm({
  opens,
  why,
  does,
  lacks = "",
  run,
  children,
}: {
  /** The button that begins it, and the one that does it. */
  opens: string;
  does: string;
  /** What is asked. */
  why: string;
  /** What has to be entered besides, as the button says it. */
  lacks?: string;
  run: { mutate: (reason: string) => void; isPending: boolean; error: unknown };
  children?: ReactNode;
}) {
  const [asking, setAsking] = useState(false);
  const [reason, setReason] = useState("");
  if (!asking)
    return (
      <div>
        <Button $quiet $small onPress={() => setAsking(true)}>
          {opens}
        </Button>
      </div>
    );
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        run.mutate(reason);
      }}
    >
      <Stack $gap={8}>
        <TextField label={why} value={reason} onChange={setReason} autoFocus isRequired />
        {children}
        <Refusal error={run.error} />
        <Row>
          <Button
            type="submit"
            why={lacks || (reason.trim() === "" ? "Enter the reason." : "")}
            isDisabled={run.isPending}
          >
            {does}
          </Button>
          <Button $quiet onPress={() => setAsking(false)}>
            Cancel
          </Button>
        </Row>
      </Stack>
    </form>
  );
}

/** A form whose change needs a reason: what it holds, and for who may change it its last row. */
export function ReasonedChange({
  writes,
  label,
  does,
  lacks = "",
  save,
  children,
}: {
  writes: boolean;
  /** The field of the reason, and the button that does it with what it lacks besides. */
  label: string;
  does: string;
  lacks?: string;
  save: { run: (reason: string) => void; isPending: boolean; error: unknown };
  children: ReactNode;
}) {
  const [reason, setReason] = useState("");
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        save.run(reason);
      }}
    >
      <Stack $gap={10}>
        {children}
        {writes && (
          <Row $gap={12} style={{ alignItems: "flex-end" }}>
            <div style={{ flex: "1 1 300px" }}>
              <TextField label={label} value={reason} onChange={setReason} />
            </div>
            <Button
              type="submit"
              why={lacks || (reason.trim() === "" ? "Enter the reason." : "")}
              isDisabled={save.isPending}
            >
              {does}
            </Button>
          </Row>
        )}
        <Refusal error={save.error} />
      </Stack>
    </form>
  );
}
