// What becomes of a part that was measured: good, referred or scrap, signed.
import { useState } from "react";
import { Offer } from "../../app/Offer";
import { useSession } from "../../app/session";
import { Button, Row, TextField } from "../../ui/parts";

export type Disposition = "good" | "refer" | "scrap";

type Props = {
  reason: string;
  put: (part: { reason: string }) => void;
  /** Why nothing can be decided yet, and why it cannot be good; empty if it can. */
  unmeasured: string;
  unmet: string;
  busy: boolean;
  sign: (disposition: Disposition, pin: string) => void;
};

export function Decision({ reason, put, unmeasured, unmet, busy, sign }: Props) {
  const { may } = useSession();
  const [pin, setPin] = useState("");
  const unreasoned = reason.trim() === "" ? "Enter the reason." : "";
  const unsigned = pin === "" ? "Type your PIN." : "";
  const signed = (d: Disposition) => {
    sign(d, pin);
    setPin("");
  };
  return (
    <>
      {!may("inspect and sign off") && <p style={{ fontSize: 18 }}>You may measure; quality signs.</p>}
      <Offer act="inspect and sign off">
        <TextField label="Reason (for refer and scrap)" value={reason} onChange={(r) => put({ reason: r })} />
        <div style={{ width: 180 }}>
          <TextField label="Your PIN again" type="password" pin value={pin} onChange={setPin} />
        </div>
        <Row>
          <Button $bench why={unmeasured || unmet || unsigned} isDisabled={busy} onPress={() => signed("good")}>
            Sign: good
          </Button>
          {(["refer", "scrap"] as const).map((d) => (
            <Button
              key={d}
              $bench
              $quiet
              why={unmeasured || unreasoned || unsigned}
              isDisabled={busy}
              onPress={() => signed(d)}
            >
              {d === "refer" ? "Refer" : "Scrap"}
            </Button>
          ))}
        </Row>
      </Offer>
    </>
  );
}
