// A signature that asks for the PIN again: what is signed, the PIN, one press.
import { useState, type FormEvent } from "react";
import { Button, Row, TextField } from "./parts";

export function Sign({
  action,
  why = "",
  busy,
  quiet,
  label = "Your PIN again",
  sign,
}: {
  /** What the press says and means: "Accept the batch". */
  action: string;
  /** What has to be done before it can be signed. */
  why?: string | undefined;
  busy?: boolean;
  quiet?: boolean;
  /** Where two signatures stand on a page, each field says what for. */
  label?: string;
  sign: (pin: string) => void;
}) {
  const [pin, setPin] = useState("");
  const go = (e: FormEvent) => {
    e.preventDefault();
    if (why || busy || pin === "") return;
    sign(pin);
    setPin("");
  };
  return (
    <form onSubmit={go}>
      <Row $gap={10} style={{ alignItems: "flex-end" }}>
        <div style={{ width: 130 }}>
          <TextField label={label} type="password" pin value={pin} onChange={setPin} />
        </div>
        <Button type="submit" $quiet={quiet} why={why || (pin === "" ? "Type the PIN." : "")} isDisabled={busy}>
          {action}
        </Button>
      </Row>
    </form>
  );
}
