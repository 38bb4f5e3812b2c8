// The pre-forms of a join: each is taken by its own label, scanned or typed.
import { useState, type FormEvent } from "react";
import { client } from "../../app/api";
import { asLabel, useScan } from "../../app/keys";
import { explain, type Schemas } from "../../contract/types";
import { Fuse } from "../../ui/Fuse";
import { Button, Heading, Mark, Row, Stack, Table, TextField } from "../../ui/parts";
import { said } from "../../ui/units";

export function Joined({
  code,
  operation,
  forms,
  labels,
  although,
  put,
}: {
  code: string;
  operation: string;
  forms: Schemas["PreformView"][];
  labels: string[];
  /** A quality person says why one that is too old is joined. */
  although: boolean;
  put: (labels: string[]) => void;
}) {
  const [typed, setTyped] = useState("");
  const [message, setMessage] = useState({ text: "", fits: true });
  const take = (label: string) =>
    void client
      .POST("/api/finish/{code}/label", {
        params: { path: { code } },
        body: { operation, label, although, ...(labels.length > 0 ? { taken: labels } : {}) },
      })
      .then(({ data, error }) => {
        setMessage({ text: data ? said(data.message) : explain(error).message, fits: data?.fits ?? false });
        if (data?.fits) {
          put([...labels, data.code]);
          setTyped("");
        }
      })
      .catch((fault: unknown) => setMessage({ text: explain(fault).message, fits: false }));
  useScan((id) => {
    if (!id.startsWith("J")) return false;
    take(asLabel(id));
    return true;
  });
  const submit = (e: FormEvent) => {
    e.preventDefault();
    if (typed.trim() !== "") take(typed.trim());
  };
  return (
    <Stack $gap={10}>
      <Heading>Pre-forms that are joined: scan each label</Heading>
      <FormsToJoin forms={forms} labels={labels} put={put} />
      <form onSubmit={submit}>
        <Row $gap={10} style={{ alignItems: "flex-end" }}>
          <div style={{ width: 200 }}>
            <TextField label="Label of a pre-form" value={typed} onChange={setTyped} />
          </div>
          <Button type="submit" $quiet why={typed.trim() === "" ? "Scan it, or type it." : ""}>
            Add
          </Button>
        </Row>
      </form>
      <div role="status">{message.text && <Mark tone={message.fits ? "met" : "stop"}>{message.text}</Mark>}</div>
    </Stack>
  );
}

/** The pre-forms, and which of them were scanned. */
function FormsToJoin({
  forms,
  labels,
  put,
}: {
  forms: Schemas["PreformView"][];
  labels: string[];
  put: (labels: string[]) => void;
}) {
  return (
    <Table>
      <tbody>
        {forms.map((f) => (
          <tr key={f.code}>
            <td>
              <b>{f.name}</b> <small>{f.code}</small>
            </td>
            <td>
              {labels.includes(f.code) ? (
                <Row $gap={8}>
                  <Mark tone="met">scanned</Mark>
                  <Button
                    $quiet
                    $small
                    aria-label={`Not ${f.code}`}
                    onPress={() => put(labels.filter((l) => l !== f.code))}
                  >
                    Not this one
                  </Button>
                </Row>
              ) : f.old ? (
                <Mark tone="stop">past its life: {said(f.old)}. A quality person decides.</Mark>
              ) : f.laid ? (
                <Mark tone="plain">laid, not scanned yet</Mark>
              ) : (
                <Mark tone="attend">not laid yet</Mark>
              )}
            </td>
            <td style={{ minWidth: 180 }}>{f.outTime && <Fuse fuse={f.outTime} />}</td>
          </tr>
        ))}
      </tbody>
    </Table>
  );
}
