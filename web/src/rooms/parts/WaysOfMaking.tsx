// Ways of making: each explains itself, and lays a whole route with one choice.
import { useState } from "react";
import { client } from "../../app/api";
import { explain, type Schemas } from "../../contract/types";
import { Button, Heading, Mark, Row, SelectField, Stack } from "../../ui/parts";
import type { Master } from "./edits";

export function WaysOfMaking({
  code,
  letter,
  doc,
  ways,
  replaces,
  lay,
}: {
  code: string;
  letter: string;
  doc: Master;
  ways: Schemas["WayView"][];
  /** There is a route already, which the choice would replace. */
  replaces: boolean;
  /** Missing: the route is read only. */
  lay?: (made: Schemas["Operation"][]) => void;
}) {
  const [key, setKey] = useState((ways.find((w) => !w.not) ?? ways[0])?.key ?? "");
  const [label, setMessage] = useState("");
  const way = ways.find((w) => w.key === key);
  const make = async () => {
    setMessage("");
    const { data, error } = await client.POST("/api/parts/{code}/route", {
      params: { path: { code } },
      body: { document: doc, letter, way: key },
    });
    if (data?.made) lay?.(data.made);
    else setMessage(explain(error).message);
  };
  if (!way) return null;
  return (
    <Stack $gap={8} style={{ borderTop: "2px solid var(--ink)", paddingTop: 10 }}>
      <Heading>Ways of making</Heading>
      <SelectField label="Way" value={key} onChange={(e) => (setKey(e.target.value), setMessage(""))}>
        {ways.map((w) => (
          <option key={w.key} value={w.key}>
            {w.name}
          </option>
        ))}
      </SelectField>
      <p>{way.why}</p>
      <p>
        <b>Where shops differ:</b> {way.differs}
      </p>
      <p>
        <b>The material’s life:</b> {way.life}
      </p>
      {lay && (
        <Row $gap={10}>
          <Button $quiet why={way.not ?? ""} onPress={() => void make()}>
            {replaces ? "Put this way in place of the route" : "Make it this way"}
          </Button>
        </Row>
      )}
      <div role="status">{label && <Mark tone="stop">{label}</Mark>}</div>
      <p style={{ color: "var(--g1)", fontSize: 15 }}>
        Times and order are common practice and a beginning: every operation can be changed. What a supplier’s data
        sheet asks goes first.
      </p>
    </Stack>
  );
}
