// Something that is asked for a reason before it is done, and may be left.
import { useState, type ReactNode } from "react";
import { Button, Refusal, Row, Stack, TextField } from "./parts";

export function ReasonForm({
  opens,
  why,
  does,
  run,
  children,
}: {
  /** The button that begins it, and the one that does it. */
  opens: string;
  does: string;
  /** What is asked. */
  why: string;
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
          <Button type="submit" why={reason.trim() === "" ? "Enter the reason." : ""} isDisabled={run.isPending}>
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

/** The last row of a form whose change needs a reason. */
export function Because({
  label,
  does,
  lacks = "",
  isPending,
  reason,
  setReason,
}: {
  label: string;
  /** The button that does it, and what it lacks besides a reason. */
  does: string;
  lacks?: string;
  isPending: boolean;
  reason: string;
  setReason: (reason: string) => void;
}) {
  return (
    <Row $gap={12} style={{ alignItems: "flex-end" }}>
      <div style={{ flex: "1 1 300px" }}>
        <TextField label={label} value={reason} onChange={setReason} />
      </div>
      <Button type="submit" why={lacks || (reason.trim() === "" ? "Enter the reason." : "")} isDisabled={isPending}>
        {does}
      </Button>
    </Row>
  );
}
