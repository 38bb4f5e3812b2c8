// A flaw seen on the table: drawn over the cloth, or typed, and written into the map of the roll.
import { useState } from "react";
import { useChange } from "../../app/api";
import { Offer } from "../../app/Offer";
import type { Schemas } from "../../contract/types";
import { Button, Heading, Mark, NumberField, Refusal, Row, TextField } from "../../ui/parts";

/** A rectangle on the sheet, m. */
export type Zone = { from: number; to: number; low: number; high: number };

type Props = {
  nest: Schemas["NestView"];
  zone: Zone | undefined;
  onZone: (zone: Zone | undefined) => void;
};

export function MarkFlaw({ nest: n, zone, onZone }: Props) {
  const [note, setNote] = useState("");
  const set = useChange("/api/rolls/{code}/flaws", () => {
    onZone(undefined);
    setNote("");
  });
  if (!zone) return <NoFlawMarked n={n} onZone={onZone} />;
  const whole = zone.low <= 0 && zone.high >= n.width;
  const why = zone.from >= 0 && zone.to > zone.from && zone.high > zone.low ? "" : "Draw it, or enter its limits.";
  const field = (label: string, key: keyof Zone) => (
    <div style={{ width: 130 }}>
      <NumberField label={label} value={zone[key]} onChange={(v) => onZone({ ...zone, [key]: v })} min={0} />
    </div>
  );
  const size = (label: string, key: keyof Zone) => <EdgeField label={label} zone={zone} edge={key} onZone={onZone} />;
  return (
    <section aria-label="Flaw" style={{ margin: "8px 0 18px" }}>
      <Heading>Flaw on {n.roll}</Heading>
      <p style={{ margin: "6px 0" }}>Draw over the cloth where it is bad, or type it.</p>
      <Row $gap={10} style={{ alignItems: "end" }}>
        {field("From, m", "from")}
        {field("To, m", "to")}
        {size("Across from, mm", "low")}
        {size("Across to, mm", "high")}
        <div style={{ flex: 1, minWidth: 160 }}>
          <TextField label="Description" value={note} onChange={setNote} />
        </div>
      </Row>
      <Refusal error={set.error} />
      <Row style={{ marginTop: 8 }}>
        <Button
          why={why}
          isDisabled={set.isPending}
          onPress={() =>
            set.mutate({
              code: n.roll,
              body: {
                flaws: [
                  ...n.flaws,
                  {
                    from: zone.from,
                    to: zone.to,
                    kind: "flaw",
                    ...(whole ? {} : { low: zone.low, high: zone.high }),
                    ...(note ? { note } : {}),
                  },
                ],
              },
            })
          }
        >
          Add to the roll’s flaw map
        </Button>
        <Button $quiet onPress={() => onZone(undefined)}>
          No flaw
        </Button>
      </Row>
    </section>
  );
}

/** An edge of the flaw. */
function EdgeField({
  label,
  zone,
  edge,
  onZone,
}: {
  label: string;
  zone: Zone;
  edge: "from" | "to" | "low" | "high";
  onZone: (zone: undefined | Zone) => void;
}) {
  return (
    <div style={{ width: 130 }}>
      <NumberField
        label={label}
        value={zone[edge] * 1e3}
        onChange={(v) => onZone({ ...zone, [edge]: v / 1e3 })}
        min={0}
      />
    </div>
  );
}

/** What is offered while no flaw is marked. */
function NoFlawMarked({ n, onZone }: { n: Props["nest"]; onZone: Props["onZone"] }) {
  const again = useChange("/api/nests/{code}/arrange");
  return (
    <>
      {n.stale && (
        <div role="alert" style={{ margin: "8px 0" }}>
          <Mark tone="stop">{n.stale}</Mark>
        </div>
      )}
      <Refusal error={again.error} />
      <Offer act="handle material">
        <Row style={{ margin: "4px 0 14px" }}>
          {n.stale && (
            <Button onPress={() => again.mutate({ code: n.code, body: {} })} isDisabled={again.isPending}>
              Nest again round it
            </Button>
          )}
          <Button $quiet onPress={() => onZone({ from: NaN, to: NaN, low: 0, high: n.width })}>
            Mark a flaw
          </Button>
        </Row>
      </Offer>
    </>
  );
}
