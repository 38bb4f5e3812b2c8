// A flat that is changed by hand: it stays as it is, and can be derived again.
import { useState } from "react";
import { Button, Mark, Row, SelectField, Stack } from "../../ui/parts";
import type { Schemas } from "../../contract/types";
import { PointsField } from "../master/PointsField";

type Flat = Schemas["Flat"];

export function ByHand({
  flat,
  derived,
  begin,
  why = "",
  set,
}: {
  /** As it is kept. */
  flat: Flat | undefined;
  /** What it would be if it were derived, in words. */
  derived: string;
  /** The flat that a change by hand begins with; undefined: there is none yet. */
  begin: Flat | undefined;
  /** Why it cannot be changed by hand. */
  why?: string;
  set: (flat: Flat | undefined) => void;
}) {
  const [piece, choose] = useState(0);
  const hand = flat?.hand ? flat : undefined;
  if (!hand)
    return (
      <Row>
        <Button
          $quiet
          $small
          why={why || (begin ? "" : "There is no flat yet.")}
          onPress={() => begin && set({ ...begin, hand: true })}
        >
          Edit by hand
        </Button>
      </Row>
    );
  const at = Math.min(piece, hand.pieces.length - 1);
  const one = hand.pieces[at];
  return (
    <Stack $gap={8}>
      <Mark tone="attend">Changed by hand: it stays as it is, whatever it was derived from. Derived: {derived}.</Mark>
      <Row $gap={8}>
        <Button $quiet $small onPress={() => set(undefined)}>
          Derive again
        </Button>
        {hand.pieces.length > 1 && (
          <SelectField label="Piece by hand" value={at} onChange={(e) => choose(Number(e.target.value))}>
            {hand.pieces.map((_, k) => (
              <option key={k} value={k}>
                piece {k + 1}
              </option>
            ))}
          </SelectField>
        )}
      </Row>
      {one && (
        <PointsField
          key={at}
          points={one.points}
          set={(points) => set({ ...hand, pieces: hand.pieces.map((p, k) => (k === at ? { ...p, points } : p)) })}
        />
      )}
    </Stack>
  );
}
