// Route templates: each explains itself, and lays a whole route with one choice.
import { useState } from "react";
import { client } from "../../app/api";
import { explain, type Schemas } from "../../contract/types";
import { Button, Heading, Mark, Row, SelectField, Stack } from "../../ui/parts";
import type { Master } from "../master/edits";

export function RouteTemplates({
  code,
  letter,
  doc,
  templates,
  replaces,
  lay,
}: {
  code: string;
  letter: string;
  doc: Master;
  templates: Schemas["RouteTemplateView"][];
  /** There is a route already, which the choice would replace. */
  replaces: boolean;
  /** Missing: the route is read only. */
  lay?: (made: Schemas["Operation"][]) => void;
}) {
  const [key, setKey] = useState((templates.find((w) => !w.not) ?? templates[0])?.key ?? "");
  const [message, setMessage] = useState("");
  const template = templates.find((w) => w.key === key);
  const make = async () => {
    setMessage("");
    const { data, error } = await client.POST("/api/parts/{code}/route", {
      params: { path: { code } },
      body: { document: doc, letter, template: key },
    });
    if (data?.made) lay?.(data.made);
    else setMessage(explain(error).message);
  };
  if (!template) return null;
  return (
    <Stack $gap={8} style={{ borderTop: "2px solid var(--ink)", paddingTop: 10 }}>
      <Heading>Route templates</Heading>
      <SelectField label="Template" value={key} onChange={(e) => (setKey(e.target.value), setMessage(""))}>
        {templates.map((w) => (
          <option key={w.key} value={w.key}>
            {w.name}
          </option>
        ))}
      </SelectField>
      <p>{template.why}</p>
      <p>
        <b>Where shops differ:</b> {template.differs}
      </p>
      <p>
        <b>The material’s life:</b> {template.life}
      </p>
      {lay && (
        <Row $gap={10}>
          <Button $quiet why={template.not ?? ""} onPress={() => void make()}>
            {replaces ? "Replace the route by this template" : "Use this template"}
          </Button>
        </Row>
      )}
      <div role="status">{message && <Mark tone="stop">{message}</Mark>}</div>
      <p style={{ color: "var(--g1)", fontSize: 15 }}>
        Times and order are common practice and a beginning: every operation can be changed. What a supplier’s data
        sheet asks goes first.
      </p>
    </Stack>
  );
}
