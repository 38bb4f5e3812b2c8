// The question behind a value that can hardly be: it was refused, and may be
// recorded all the same by somebody who looked again.
import { Button } from "./parts";
import { ruleOf } from "../contract/types";

export function ConfirmReading({ error, sure }: { error: unknown; sure: () => void }) {
  if (ruleOf(error) !== "unlikely") return null;
  return (
    <Button $bench $quiet onPress={sure}>
      The gauge reads so: record it
    </Button>
  );
}
