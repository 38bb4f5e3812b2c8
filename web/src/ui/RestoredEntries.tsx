// Says that entries of an earlier visit stand in a form again.
import { Button, Mark, Row } from "./parts";
import { moment } from "./format";

export function RestoredEntries({ since, forget }: { since?: string | undefined; forget: () => void }) {
  if (!since) return null;
  return (
    <Row role="status" $gap={10}>
      <Mark tone="attend">Your entries of {moment(since)} are restored: nothing of them is stored yet.</Mark>
      <Button $quiet $small onPress={forget}>
        Begin anew
      </Button>
    </Row>
  );
}
