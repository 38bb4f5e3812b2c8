// What a kit holds besides its plies: film, core, inserts, each counted with the label of
// what it is taken from.
import { useState } from "react";
import { asLabel, useScan } from "../../app/keys";
import type { Schemas } from "../../contract/types";
import { Button, Heading, Mark, Row, Stack, Table, TextField } from "../../ui/parts";
import { said } from "../../ui/units";

type Item = Schemas["KitItem"];

export function KitItems({
  items,
  open,
  busy,
  count,
  aside,
}: {
  items: Item[];
  /** The count is open, and whoever looks at it may count. */
  open: boolean;
  busy: boolean;
  count: (key: string, from: string) => void;
  aside: (key: string) => void;
}) {
  const [from, setFrom] = useState<Record<string, string>>({});
  const next = items.find((i) => !i.countedAt);
  // The label of a roll or a batch is what the next one is taken from.
  useScan((id) => {
    if (!open || !next || !(id.startsWith("R") || id.startsWith("M"))) return false;
    setFrom((f) => ({ ...f, [next.key]: asLabel(id) }));
    return true;
  });
  return (
    <Stack $gap={8}>
      <Heading>Besides the plies</Heading>
      <Table>
        <tbody>
          {items.map((i) => (
            <tr key={i.key}>
              <td>
                <b>{said(i.label)}</b> {i.material && <small>{i.material}</small>}
              </td>
              <td>
                {i.countedAt ? (
                  <Row $gap={8}>
                    <Mark tone="met">
                      counted{i.from && `, from ${i.from}`}, {i.countedBy}
                    </Mark>
                    {open && (
                      <Button $quiet $small onPress={() => aside(i.key)} aria-label={`Not counted: ${said(i.label)}`}>
                        Not counted
                      </Button>
                    )}
                  </Row>
                ) : open ? (
                  <Row $gap={8} style={{ alignItems: "flex-end" }}>
                    <div style={{ width: 190 }}>
                      <TextField
                        label={`${said(i.label)}: roll, batch or lot`}
                        value={from[i.key] ?? ""}
                        onChange={(text) => setFrom({ ...from, [i.key]: text })}
                      />
                    </div>
                    <Button
                      $quiet
                      isDisabled={busy}
                      onPress={() => count(i.key, (from[i.key] ?? "").trim())}
                      aria-label={`Count ${said(i.label)}`}
                    >
                      Count
                    </Button>
                  </Row>
                ) : (
                  <small>not counted yet</small>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </Table>
    </Stack>
  );
}
