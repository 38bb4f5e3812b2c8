// The question behind a value that can hardly be: it was refused, and may be
// recorded all the same by somebody who looked again.
import { Button } from "./parts";
import type { Problem } from "../contract/types";

export function Sure({ error, sure }: { error: unknown; sure: () => void }) {
  const asks = (error as Problem | null)?.errors?.some((e) => e.location?.endsWith("sure"));
  if (!asks) return null;
  return (
    <Button $bench $quiet onPress={sure}>
      The gauge reads so: record it
    </Button>
  );
}
